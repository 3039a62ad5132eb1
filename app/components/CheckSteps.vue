<script setup lang="ts">
import { duration } from '#core/text/duration'
import type { CheckStep } from '#shared/status'

/** The steps of a check, each with what was seen and how long it took. */
defineProps<{ steps: CheckStep[] }>()

const seenAt = ({ fault, flow, evidence }: CheckStep) => {
  if (fault) return fault.code === 'certificate.unknown' ? 'not known here' : fault.what
  return flow === 'waiting' && !evidence ? 'under way' : evidence
}
</script>

<template>
  <ol>
    <li v-for="step in steps" :key="step.step" :class="`step-${step.flow}`" :data-step="step.step">
      <strong>{{ step.title }}</strong>
      <PipeGlyph :flow="step.flow" :width="38" />
      <span class="evidence">{{ seenAt(step) }}</span>
      <span class="number quiet">{{ step.ms === null ? '' : duration(step.ms) }}</span>
    </li>
  </ol>
</template>

<style scoped>
ol {
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  display: grid;
  grid-template-columns: 112px 38px 1fr 62px;
  gap: 12px;
  align-items: center;
  padding: 5px 16px;
}
li strong {
  font-weight: 600;
}
.step-off {
  color: var(--capped);
}
.step-broken {
  background: rgba(var(--v-theme-break), 0.08);
}
.step-broken .evidence {
  color: var(--break);
}
.evidence {
  overflow-wrap: anywhere;
}
</style>
