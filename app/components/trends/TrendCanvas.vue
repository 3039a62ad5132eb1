<script setup lang="ts">
import { useResizeObserver } from '@vueuse/core'
import { useTheme } from 'vuetify'
import { drawChart, openChart, type TrendChart } from '~/trends/chart'
import type { Line } from '~/trends/lines'

/** The picture: zoomed by wheel or by dragging over it, moved with Shift, and with two cursors. */
const props = defineProps<{
  lines: readonly Line[]
  from: number
  to: number
  cursors: readonly (number | null)[]
  /** Where the line that is looked at had nothing good, and whether nothing of it was recorded before the span. */
  gaps: readonly (readonly [number, number])[]
  isFirst: boolean
  ranges: readonly { axis: string; low: number; high: number }[]
  words: string
  /** Nobody zooms or points in it. */
  still?: boolean
}>()
const emit = defineEmits<{
  zoomed: [from: number, to: number]
  pressed: [at: number]
  pointed: [at: number | null]
  wide: [columns: number]
}>()

const canvas = ref<HTMLCanvasElement | null>(null)
const theme = useTheme()
let chart: TrendChart | null = null

const draw = () => {
  if (!chart) return
  const { colors, dark } = theme.current.value
  const { lines, from, to, cursors, gaps, isFirst, ranges } = props
  const around = { from, to, cursors, gaps, isFirst, ranges, dark, ink: String(colors['on-surface']), broken: String(colors.break) }
  drawChart(chart, lines, around)
}
watch([() => props.lines, () => props.from, () => props.to, () => props.cursors, () => props.gaps, () => props.ranges], draw)
watch(() => theme.global.name.value, draw)

const momentAt = (event: MouseEvent): number | null => {
  if (!chart || !canvas.value) return null
  const x = event.clientX - canvas.value.getBoundingClientRect().left
  const { left, right } = chart.chartArea
  return x < left || x > right ? null : (chart.scales.x!.getValueForPixel(x) ?? null)
}
let downAt = 0
const press = (event: MouseEvent) => {
  const at = momentAt(event)
  // a drag is no press
  if (at !== null && Math.abs(event.clientX - downAt) < 5) emit('pressed', at)
}

onMounted(() => {
  chart = openChart(canvas.value!, props.still ? null : (from, to) => emit('zoomed', from, to))
  draw()
})
useResizeObserver(canvas, ([entry]) => emit('wide', Math.max(100, Math.round(entry!.contentRect.width))))
onUnmounted(() => chart?.destroy())

defineExpose({ canvas })
</script>

<template>
  <div class="picture">
    <canvas
      ref="canvas"
      role="img"
      :aria-label="words"
      @mousedown="downAt = $event.clientX"
      @mousemove="emit('pointed', momentAt($event))"
      @mouseleave="emit('pointed', null)"
      @click="press"
    />
  </div>
</template>

<style scoped>
.picture {
  position: relative;
  min-width: 0;
  min-height: 0;
  height: 100%;
}
</style>
