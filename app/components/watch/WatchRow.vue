<script setup lang="ts">
import { passedOnBy } from '#core/tags/scaling'
import { qualityText, severityOf } from '#core/tags/quality'
import { isNumeric } from '#core/tags/types'
import { namedText } from '#core/tags/valueNames'
import { valueText } from '#core/text/number'
import type { Tag } from '#shared/tags'
import type { TagTrend } from '#shared/watch'

/** One tag of a watch list, live. */
const props = defineProps<{ tag: Tag; trend: TagTrend | undefined; chosen: boolean; now: number; canRemove: boolean }>()
defineEmits<{ remove: [] }>()
const live = useLive()

const type = computed(() => passedOnBy(props.tag))
const isDrawn = computed(() => isNumeric(type.value) || type.value === 'bool')
const value = computed(() => live.values.get(props.tag.id))
const severity = computed(() => (value.value ? severityOf(value.value.quality) : null))
const text = computed(() => (value.value ? namedText(value.value.value, props.tag.names, type.value) : '—'))
const age = computed(() => {
  const seenAt = value.value?.seenAt
  return seenAt ? Math.max(0, (props.now - live.clockAhead - seenAt) / 1000).toFixed(1) : '—'
})
/** A value that just came may lie beyond what the last second told. */
const ends = computed(() => {
  if (!isNumeric(type.value)) return { least: null, most: null }
  const { least = null, most = null } = props.trend ?? {}
  const now = value.value && severity.value === 'good' && typeof value.value.value === 'number' ? [value.value.value] : []
  const outermost = (known: number | null, pick: (...all: number[]) => number) =>
    known === null && now.length === 0 ? null : pick(...now, ...(known === null ? [] : [known]))
  return { least: outermost(least, Math.min), most: outermost(most, Math.max) }
})
const rate = computed(() => {
  const { trend } = props
  return trend ? trend.changesPerSecond.toFixed(trend.changesPerSecond < 10 ? 1 : 0) : '—'
})
</script>

<template>
  <div class="columns row" :class="{ chosen }" role="row" :aria-selected="chosen">
    <PathText :path="tag.path" role="cell" />
    <span class="number strong" role="cell" :title="text">{{ text }}</span>
    <span role="cell" class="quiet">{{ tag.unit }}</span>
    <span role="cell" :class="{ 'is-broken': severity === 'bad', 'is-late': severity === 'uncertain' }">{{
      value ? qualityText(value.quality) : '—'
    }}</span>
    <span class="number" role="cell">{{ age }}</span>
    <span class="number" role="cell">{{ valueText(ends.least, type) }}</span>
    <span class="number" role="cell">{{ valueText(ends.most, type) }}</span>
    <span class="number" role="cell">{{ rate }}</span>
    <span role="cell"><TrendPicture v-if="isDrawn" :trend="trend" :unit="tag.unit" /></span>
    <span role="cell" class="out">
      <button
        v-if="canRemove"
        type="button"
        :aria-label="`Take ${tag.path} off the list`"
        title="Take off the list"
        @click.stop="$emit('remove')"
      >
        ×
      </button>
    </span>
  </div>
</template>

<style scoped>
.row {
  height: 30px;
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
.strong {
  font-weight: 600;
}
.out {
  text-align: center;
}
.out button {
  padding: 0 6px;
  color: var(--quiet);
  font-size: 15px;
}
</style>
