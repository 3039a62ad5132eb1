<script setup lang="ts">
import { dayText } from '#core/text/moment'
import { sizeText } from '#core/text/sizeText'
import type { UpkeepState } from '#shared/upkeep'

/** One disk as a vessel: how full it is, and at which levels something happens by itself. */
const props = defineProps<{ disk: UpkeepState['disks'][number] }>()
const share = (freeBytes: number) => 100 * (1 - freeBytes / props.disk.bytes)
const levels = computed(() => [
  { key: 'low', at: share(props.disk.marks.low), text: `below ${sizeText(props.disk.marks.low)} free: told here and in the journal` },
  {
    key: 'short',
    at: share(props.disk.marks.short),
    text: `below ${sizeText(props.disk.marks.short)}: the oldest single samples give way`,
  },
  { key: 'critical', at: share(props.disk.marks.critical), text: `below ${sizeText(props.disk.marks.critical)}: nothing is recorded` },
])
const flow = computed(
  () => ({ well: 'flowing', low: 'late', short: 'broken', critical: 'broken' })[props.disk.stage] as 'flowing' | 'late' | 'broken',
)
const outlook = computed(() => {
  const { shortAt, stage } = props.disk
  if (stage === 'critical') return 'As good as full: nothing is recorded.'
  if (stage === 'short') return 'Short: what is recorded gives way.'
  if (shortAt === null) return 'At the pace of the last days it does not fill, or it is too early to tell.'
  return `At the pace of the last days it is short on ${dayText(shortAt)}.`
})
</script>

<template>
  <div class="disk">
    <p class="line">
      <PipeGlyph :flow="flow" :width="38" :text="disk.stage" />
      <span class="mono name">{{ disk.name }}</span>
      <span>{{ sizeText(disk.freeBytes) }} of {{ sizeText(disk.bytes) }} free</span>
    </p>
    <div class="vessel" role="img" :aria-label="`${Math.round(share(disk.freeBytes))} % used`">
      <span class="used" :class="disk.stage" :style="{ width: `${share(disk.freeBytes)}%` }" />
      <span v-for="{ key, at } in levels" :key="key" class="level" :style="{ left: `${at}%` }" />
    </div>
    <p :class="{ 'is-late': disk.stage === 'low', 'is-broken': disk.stage === 'short' || disk.stage === 'critical' }">{{ outlook }}</p>
    <ul class="quiet">
      <li v-for="{ key, text } in levels" :key="key">{{ text }}</li>
    </ul>
  </div>
</template>

<style scoped>
.line {
  display: flex;
  gap: 10px;
  align-items: center;
  flex-wrap: wrap;
  margin: 8px 0;
}
.name {
  overflow-wrap: anywhere;
}
.vessel {
  position: relative;
  height: 16px;
  border: 1px solid var(--line);
  border-radius: 3px;
  background: var(--surface);
}
.used {
  position: absolute;
  inset: 0 auto 0 0;
  background: var(--flow, var(--petrol));
}
.used.low {
  background: var(--copper);
}
.used.short,
.used.critical {
  background: var(--break);
}
.level {
  position: absolute;
  top: -4px;
  bottom: -4px;
  border-left: 2px solid var(--ink);
  opacity: 0.55;
}
p {
  margin: 8px 0 0;
}
ul {
  margin: 6px 0 0;
  padding-left: 18px;
  font-size: 12px;
}
</style>
