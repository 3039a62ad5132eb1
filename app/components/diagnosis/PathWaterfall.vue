<script setup lang="ts">
import { duration } from '#core/text/duration'
import type { CheckStep } from '#shared/status'

/** The steps of a path one below the other, each with what was seen and, as a bar, when and how long. */
const props = defineProps<{ steps: CheckStep[] }>()

const whole = computed(() => Math.max(1, ...props.steps.map(({ at, ms }) => (at ?? 0) + (ms ?? 0))))
/** A bar that nobody could see would say that nothing was done. */
const bar = ({ at, ms }: CheckStep) => ({
  left: `${(100 * Math.min(at ?? 0, whole.value)) / whole.value}%`,
  width: `max(2px, ${(100 * (ms ?? 0)) / whole.value}%)`,
})
const seenAt = ({ fault, flow, evidence }: CheckStep) => {
  if (fault) return fault.code === 'certificate.unknown' ? 'not known here' : fault.what
  return flow === 'waiting' && !evidence ? 'under way' : evidence
}
/** Where the thing is looked at that a step is about, where that is another one: only the step that names it leads there. */
const placeOf = ({ about, joint }: CheckStep): string | null => {
  if (!about || joint === 'link' || joint === 'point') return null
  return about.subject === 'recordSet' ? `/records/${about.id}` : `/${about.subject}s/${about.id}/path`
}
const took = ({ ms, flow, evidence }: CheckStep) => (ms !== null ? duration(ms) : flow === 'off' && evidence === 'not reached' ? '' : '—')
</script>

<template>
  <ol class="waterfall">
    <li v-for="(step, i) in steps" :key="step.step" :class="`step-${step.flow}`" :data-step="step.step">
      <span class="number quiet">{{ i + 1 }}</span>
      <strong>
        <NuxtLink v-if="placeOf(step)" :to="placeOf(step)!">{{ step.title }}</NuxtLink>
        <template v-else>{{ step.title }}</template>
      </strong>
      <PipeGlyph :flow="step.flow" :width="42" />
      <span class="evidence">{{ seenAt(step) }}</span>
      <span class="lane"><span v-if="step.ms !== null" class="bar" :style="bar(step)" /></span>
      <span class="number mono">{{ took(step) }}</span>
    </li>
  </ol>
</template>

<style scoped>
.waterfall {
  list-style: none;
  margin: 0;
  padding: 6px 0;
}
li {
  display: grid;
  grid-template-columns: 18px minmax(136px, 0.7fr) 42px minmax(150px, 1fr) minmax(70px, 150px) 66px;
  gap: 12px;
  align-items: center;
  padding: 7px 16px;
  min-height: 34px;
}
strong {
  font-weight: 600;
  overflow-wrap: anywhere;
}
.evidence {
  overflow-wrap: anywhere;
}
.lane {
  position: relative;
  height: 12px;
}
.bar {
  position: absolute;
  top: 0;
  height: 12px;
  border-radius: 2px;
  background: var(--flow);
}
.step-broken {
  background: rgba(var(--v-theme-break), 0.08);
}
.step-broken .evidence {
  color: var(--break);
}
.step-broken .bar {
  background: var(--break);
}
.step-off {
  color: var(--capped);
}
.mono {
  font-size: 12px;
}
</style>
