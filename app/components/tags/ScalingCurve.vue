<script setup lang="ts">
import { backward, forward, type RangeScaling } from '#core/tags/curve'
import { valueText } from '#core/text/number'
import type { Tag } from '#shared/tags'

/** The curve from raw to engineering values, with the point where the value is now. */
const props = defineProps<{ scaling: RangeScaling; tag: Tag | null; unit: string }>()
const live = useLive()
watch(
  () => props.tag?.id ?? null,
  (id) => live.show('curve', id === null ? [] : [id]),
  { immediate: true },
)
onUnmounted(() => live.show('curve', []))

const [width, height] = [170, 104]
const steps = 60
const isWhole = computed(() => {
  const { raw, to } = props.scaling
  return [raw.low, raw.high, to.low, to.high].every(Number.isFinite) && raw.low !== raw.high && to.low !== to.high
})
/** A little beyond both ends, where it shows whether values stop. */
const points = computed(() => {
  const { low, high } = props.scaling.raw
  return Array.from({ length: steps + 1 }, (_, i) => {
    const raw = low + ((i / steps) * 1.3 - 0.15) * (high - low)
    return { raw, value: forward(raw, props.scaling) }
  })
})
const frame = computed(() => {
  const values = points.value.map(({ value }) => value)
  const [low, high] = [Math.min(...values), Math.max(...values)]
  return { low, span: high - low || 1, from: points.value[0]!.raw, along: points.value.at(-1)!.raw - points.value[0]!.raw || 1 }
})
const at = (raw: number, value: number) => {
  const { low, span, from, along } = frame.value
  return { x: 4 + ((raw - from) / along) * (width - 8), y: height - 4 - ((value - low) / span) * (height - 8) }
}
const line = computed(() =>
  points.value
    .map(({ raw, value }) =>
      Object.values(at(raw, value))
        .map((n) => n.toFixed(1))
        .join(','),
    )
    .join(' '),
)
const ends = computed(() => [props.scaling.raw.low, props.scaling.raw.high].map((raw) => at(raw, forward(raw, props.scaling))))
const now = computed(() => {
  const passedOn = props.tag === null ? undefined : live.values.get(props.tag.id)?.value
  if (typeof passedOn !== 'number') return null
  // what is passed on is made by the scaling as it was saved
  const raw = props.tag?.scaling ? backward(passedOn, props.tag.scaling) : passedOn
  if (raw === null) return null
  const value = forward(raw, props.scaling)
  return { value, raw, ...at(raw, value) }
})
const isShown = computed(() => now.value && now.value.x >= 0 && now.value.x <= width)
const told = computed(() => (now.value ? `now ${valueText(now.value.raw)} → ${valueText(now.value.value)} ${props.unit}`.trim() : ''))
</script>

<template>
  <figure v-if="isWhole" class="curve">
    <svg :width="width" :height="height" :viewBox="`0 0 ${width} ${height}`" role="img" :aria-label="`Curve of the scaling. ${told}`">
      <line v-for="(end, i) in ends" :key="i" class="end" :x1="end.x" :x2="end.x" y1="0" :y2="height" />
      <polyline class="line" :points="line" />
      <circle v-for="(end, i) in ends" :key="i" class="mark" :cx="end.x" :cy="end.y" r="2.5" />
      <circle v-if="isShown" class="now" :cx="now!.x" :cy="now!.y" r="4.5" />
    </svg>
    <figcaption class="quiet">{{ told }}</figcaption>
  </figure>
</template>

<style scoped>
.curve {
  margin: 0;
  font-size: 11px;
}
svg {
  display: block;
  border: 1px solid var(--line);
  border-radius: 4px;
}
.end {
  stroke: var(--line);
  stroke-dasharray: 2 3;
}
.line {
  fill: none;
  stroke: rgb(var(--v-theme-primary));
  stroke-width: 1.6;
}
.mark {
  fill: rgb(var(--v-theme-primary));
}
.now {
  fill: var(--copper);
  stroke: var(--surface);
  stroke-width: 1.5;
}
</style>
