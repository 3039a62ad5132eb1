<script setup lang="ts">
import { isRanges, type Scaling } from '#core/tags/curve'
import { isScaled, passedOnBy } from '#core/tags/scaling'
import { qualityText, severityOf } from '#core/tags/quality'
import { namedText, valueName } from '#core/tags/valueNames'
import type { Tag } from '#shared/tags'
import { factsOf } from '~/sources/registry'

/** One tag in the list, live. */
const props = defineProps<{ tag: Tag; note: string | undefined; chosen: boolean; now: number }>()
const live = useLive()
const lists = useLists()
const facts = computed(() => factsOf(props.tag, lists.links))

const value = computed(() => live.values.get(props.tag.id))
const isNamed = computed(() => valueName(value.value?.value, props.tag.names) !== null)
const text = computed(() => namedText(value.value?.value, props.tag.names, passedOnBy(props.tag)))
const severity = computed(() => (value.value ? severityOf(value.value.quality) : null))
const age = computed(() => {
  const seenAt = value.value?.seenAt
  if (!seenAt) return '—'
  const seconds = Math.max(0, (props.now - live.clockAhead - seenAt) / 1000)
  return seconds < 100 ? seconds.toFixed(1) : String(Math.round(seconds))
})
const shortScaling = (scaling: Scaling) => {
  if (isRanges(scaling)) return `${scaling.curve === 'root' ? '√ ' : ''}→${scaling.to.low}…${scaling.to.high}`
  return `×${scaling.gain}${scaling.offset ? ` + ${scaling.offset}` : ''}`
}
const words = computed(() => {
  const { scaling } = props.tag
  const options = facts.value.words
  return isScaled(scaling) ? `${shortScaling(scaling)} ${options}`.trim() : options
})
</script>

<template>
  <div class="row" :class="{ chosen }" role="row" :aria-selected="chosen">
    <PathText :path="tag.path" role="cell">
      <small v-if="note" class="is-late">{{ note }}</small>
    </PathText>
    <span :key="text" class="number strong glow" :class="{ named: isNamed }" role="cell" :aria-colspan="isNamed ? 2 : 1" :title="text">{{
      severity === 'bad' && value?.value === null ? '—' : text
    }}</span>
    <span v-if="!isNamed" role="cell" class="quiet">{{ tag.unit }}</span>
    <span role="cell" :class="{ 'is-broken': severity === 'bad', 'is-late': severity === 'uncertain' }">{{
      value ? qualityText(value.quality) : '—'
    }}</span>
    <span class="number" role="cell">{{ age }}</span>
    <span class="mono cut" role="cell" :title="facts.full">{{ facts.address }}</span>
    <span class="mono" role="cell">{{ tag.type }}</span>
    <span class="mono cut" role="cell">{{ words }}</span>
    <span class="mono" role="cell">{{ facts.every }}</span>
  </div>
</template>

<style scoped>
.row {
  display: grid;
  grid-template-columns: var(--tag-columns);
  align-items: center;
  height: 30px;
  padding: 0 10px;
  gap: 10px;
  border-top: 1px solid var(--line-soft);
  cursor: pointer;
}
.row:hover {
  background: rgba(var(--v-theme-on-surface), 0.03);
}
.chosen,
.chosen:hover {
  background: var(--tint);
}
.row > span {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
/* a name takes the place of the unit as well */
.named {
  grid-column: span 2;
}
.strong {
  font-weight: 600;
}
.glow {
  animation: glow 0.7s ease-out;
  border-radius: 3px;
}
</style>
