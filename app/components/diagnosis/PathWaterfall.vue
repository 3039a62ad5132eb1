<script setup lang="ts">
import { counted } from '#core/text/counted'
import { duration } from '#core/text/duration'
import type { CheckStep } from '#shared/status'
import { groupsOf, type StepGroup } from '~/diagnosis/groups'

/** The steps of a path one below the other, each with what was seen and, as a bar, when and how long. */
const props = defineProps<{ steps: CheckStep[] }>()

const groups = computed(() => groupsOf(props.steps))
/** Where something stops, what is sound is folded, until somebody opens it. */
const chosen = ref(new Map<string, boolean>())
const isOpen = ({ key, isSound, title, steps }: StepGroup) => {
  if (title === null) return true
  return chosen.value.get(key) ?? (steps.length === 1 || !isSound || groups.value.every((group) => group.isSound))
}
const turn = (group: StepGroup) => chosen.value.set(group.key, !isOpen(group))

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
  if (!about || about.subject === 'link' || joint === 'point') return null
  return about.subject === 'recordSet' ? `/records/${about.id}` : `/${about.subject}s/${about.id}/path`
}
/** Long paths break where their levels end. */
const breakable = (title: string) => title.replace(/[/_]/g, '$&\u200b')
const took = ({ ms, flow, evidence }: CheckStep) => (ms !== null ? duration(ms) : flow === 'off' && evidence === 'not reached' ? '' : '—')
</script>

<template>
  <ol class="waterfall">
    <template v-for="group in groups" :key="group.key">
      <li v-if="group.title" class="group">
        <button type="button" :aria-expanded="isOpen(group)" @click="turn(group)">
          <span class="group-title">{{ group.title }}</span>
          <span v-if="!isOpen(group)" class="quiet">{{ counted(group.steps.length, 'step') }}, all sound</span>
          <span class="fill" />
          <span v-if="!isOpen(group) && group.ms !== null" class="mono quiet">{{ duration(group.ms) }}</span>
        </button>
      </li>
      <template v-if="isOpen(group)">
        <li v-for="step in group.steps" :key="step.step" class="step" :class="`step-${step.flow}`" :data-step="step.step">
          <span class="number quiet">{{ step.number }}</span>
          <strong>
            <NuxtLink v-if="placeOf(step)" :to="placeOf(step)!">{{ breakable(step.title) }}</NuxtLink>
            <template v-else>{{ breakable(step.title) }}</template>
          </strong>
          <PipeGlyph :flow="step.flow" :width="42" />
          <span class="evidence">{{ seenAt(step) }}</span>
          <span class="lane"><span v-if="step.ms !== null" class="bar" :style="bar(step)" /></span>
          <span class="number mono">{{ took(step) }}</span>
        </li>
      </template>
    </template>
  </ol>
</template>

<style scoped>
.waterfall {
  list-style: none;
  margin: 0;
  padding: 6px 0;
}
.group button {
  display: flex;
  align-items: baseline;
  gap: 10px;
  width: 100%;
  padding: 8px 16px 3px;
  text-align: left;
}
.group:not(:first-child) {
  border-top: 1px solid var(--line);
}
.group button:hover .group-title {
  text-decoration: underline;
}
.group-title {
  color: var(--primary);
  font-weight: 500;
  overflow-wrap: anywhere;
}
.fill {
  flex: 1;
}
.step {
  display: grid;
  grid-template-columns: 18px minmax(130px, 0.55fr) 42px minmax(150px, 1fr) minmax(60px, 110px) 60px;
  gap: 12px;
  align-items: center;
  padding: 7px 16px;
  min-height: 34px;
}
strong a {
  color: var(--primary);
  text-decoration: none;
}
strong a:hover {
  text-decoration: underline;
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
