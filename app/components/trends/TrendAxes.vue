<script setup lang="ts">
import type { TrendContent } from '#shared/trendSet'

/** From where to where each axis goes; without a word of anybody it fits itself to what is there. */
const ranges = defineModel<TrendContent['ranges']>('ranges', { required: true })
const props = defineProps<{ axes: readonly string[] }>()
type End = 'low' | 'high'
/** What is typed, until both ends make a range. */
const typed = reactive(new Map<string, Record<End, number | null>>())
const endsOf = (axis: string): Record<End, number | null> => {
  const known = ranges.value.find((one) => one.axis === axis)
  return typed.get(axis) ?? { low: known?.low ?? null, high: known?.high ?? null }
}
const isRange = ({ low, high }: Record<End, number | null>) =>
  low !== null && high !== null && Number.isFinite(low) && Number.isFinite(high) && low < high
const set = (axis: string, end: End, value: number | null) => {
  const ends = { ...endsOf(axis), [end]: value }
  typed.set(axis, ends)
  const others = ranges.value.filter((one) => one.axis !== axis)
  ranges.value = isRange(ends) ? [...others, { axis, low: Number(ends.low), high: Number(ends.high) }] : others
}
const message = (axis: string, end: End) => {
  const ends = endsOf(axis)
  if (ends[end] !== null && !Number.isFinite(ends[end])) return 'A number.'
  const isWrong = end === 'high' && ends.low !== null && ends.high !== null && !(ends.low < ends.high)
  return isWrong ? 'Above the low end.' : ''
}
const fit = (axis: string) => {
  typed.delete(axis)
  ranges.value = ranges.value.filter((one) => one.axis !== axis)
}
const count = computed(() => ranges.value.filter(({ axis }) => props.axes.includes(axis)).length)
</script>

<template>
  <v-menu :close-on-content-click="false">
    <template #activator="{ props: menu }"
      ><v-btn v-bind="menu">{{ count > 0 ? `Axes, ${count} set …` : 'Axes …' }}</v-btn></template
    >
    <section class="sheet axes" aria-label="Axes">
      <div v-for="axis in axes" :key="axis" class="one">
        <strong class="name">{{ axis }}</strong>
        <NumberField
          :model-value="endsOf(axis).low"
          :label="`${axis}, from`"
          :message="message(axis, 'low')"
          @update:model-value="set(axis, 'low', $event)"
        />
        <NumberField
          :model-value="endsOf(axis).high"
          :label="`${axis}, to`"
          :message="message(axis, 'high')"
          @update:model-value="set(axis, 'high', $event)"
        />
        <v-btn height="26" class="fit" @click="fit(axis)">Fits itself</v-btn>
      </div>
      <p v-if="axes.length === 0" class="quiet">Nothing is drawn.</p>
    </section>
  </v-menu>
</template>

<style scoped>
.axes {
  padding: 12px 14px;
}
.one {
  display: grid;
  grid-template-columns: 90px 110px 110px auto;
  gap: 10px;
  align-items: start;
  margin-bottom: 8px;
}
.name,
.fit {
  margin-top: 26px;
  font-weight: 600;
  overflow-wrap: anywhere;
}
</style>
