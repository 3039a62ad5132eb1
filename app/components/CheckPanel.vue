<script setup lang="ts">
import { duration } from '#core/text/duration'
import type { CheckStep } from '#shared/status'

/** The check beside a sheet: each step with what was seen and how long it took; below, what it means. */
const props = defineProps<{
  steps: CheckStep[]
  running: boolean
  failed: CheckStep | null
  note: string
  canRun: boolean
  asks?: boolean
}>()
defineEmits<{ run: []; stop: [] }>()
const sound = computed(() => !props.running && props.steps.length > 0 && props.steps.every((step) => step.flow === 'flowing'))
</script>

<template>
  <section class="sheet check" aria-live="polite">
    <div class="head">
      <h2 class="sheet-title">Check</h2>
      <span class="quiet">{{ note }}</span>
      <span class="fill" />
      <v-btn v-if="running" height="26" @click="$emit('stop')">Stop</v-btn>
      <v-btn v-else height="26" :disabled="!canRun" @click="$emit('run')">Check now</v-btn>
    </div>
    <p v-if="steps.length === 0" class="quiet empty">Runs by itself as soon as the fields are complete.</p>
    <ol v-else>
      <li v-for="step in steps" :key="step.step" :class="`step-${step.flow}`" :data-step="step.step">
        <strong>{{ step.title }}</strong>
        <PipeGlyph :flow="step.flow" :width="38" />
        <span class="evidence">{{
          step.fault
            ? step.fault.code === 'certificate.unknown'
              ? 'not known here'
              : step.fault.what
            : step.flow === 'waiting'
              ? 'under way'
              : step.evidence
        }}</span>
        <span class="number quiet">{{ step.ms === null ? '' : duration(step.ms) }}</span>
      </li>
    </ol>
    <p v-if="sound" class="verdict">The device answers. It can be saved.</p>
  </section>
  <FaultNote v-if="failed?.fault && !(asks && failed.fault.code === 'certificate.unknown')" :fault="failed.fault" class="below" />
</template>

<style scoped>
.check {
  padding: 12px 0 8px;
}
.head {
  display: flex;
  align-items: center;
  gap: 10px;
  padding: 0 16px 8px;
}
.fill {
  flex: 1;
}
.empty,
.verdict {
  padding: 0 16px 8px;
  margin: 0;
}
.verdict {
  color: var(--flow);
  font-weight: 500;
  padding-top: 8px;
}
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
.below {
  margin-top: 12px;
}
</style>
