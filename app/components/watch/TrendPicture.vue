<script setup lang="ts">
import { Chart, Filler, LinearScale, LineController, LineElement, PointElement, type Scale } from 'chart.js'
import { useTheme } from 'vuetify'
import { valueText } from '#core/text/number'
import type { TagTrend } from '#shared/watch'

/** The last five minutes of a tag: between the least and the most of each second; a gap where nothing was good. */
const props = defineProps<{ trend: TagTrend | undefined; large?: boolean; unit?: string }>()

Chart.register(LineController, LineElement, PointElement, LinearScale, Filler)
const canvas = ref<HTMLCanvasElement | null>(null)
const theme = useTheme()
let chart: Chart<'line', { x: number; y: number | null }[]> | null = null

const colours = () => {
  const { flow, 'on-surface': ink } = theme.current.value.colors
  return { line: String(flow), band: `${String(flow)}55`, ink: String(ink) }
}
const pointsOf = (values: readonly (number | null)[]) => values.map((y, i) => ({ x: i - values.length + 1, y }))

const draw = () => {
  if (!chart || !props.trend) return
  const { line, band, ink } = colours()
  const [low, high] = chart.data.datasets
  low!.data = pointsOf(props.trend.lows)
  high!.data = pointsOf(props.trend.highs)
  low!.borderColor = high!.borderColor = line
  high!.backgroundColor = band
  for (const scale of Object.values(chart.options.scales ?? {})) {
    if (scale?.ticks) scale.ticks.color = ink
    if (scale?.grid) scale.grid.color = `${ink}1f`
  }
  chart.update('none')
}

const font = { size: 11, family: 'IBM Plex Sans' }
const minutes = [-300, -240, -180, -120, -60, 0]
const axes = () => ({
  x: {
    type: 'linear' as const,
    min: -shownSeconds,
    max: 0,
    display: props.large,
    grid: { drawTicks: false },
    border: { display: false },
    afterBuildTicks: (axis: Scale) => {
      axis.ticks = minutes.map((value) => ({ value }))
    },
    ticks: { font, maxRotation: 0, callback: (value: string | number) => (Number(value) === 0 ? 'now' : `${Number(value) / 60} min`) },
  },
  y: {
    type: 'linear' as const,
    display: props.large,
    grace: '8%',
    grid: { drawTicks: false },
    border: { display: false },
    ticks: { maxTicksLimit: 5, font, callback: (value: string | number) => valueText(Number(value)) },
  },
})
onMounted(() => {
  const line = { data: [], pointRadius: 0, borderWidth: 1.2, stepped: false }
  chart = new Chart(canvas.value!, {
    type: 'line',
    data: { datasets: [{ ...line }, { ...line, fill: '-1' }] },
    options: {
      animation: false,
      responsive: true,
      maintainAspectRatio: false,
      events: [],
      scales: axes(),
      layout: { padding: props.large ? 0 : 2 },
    },
  })
  draw()
})
watch([() => props.trend, () => theme.global.name.value], draw)
onUnmounted(() => chart?.destroy())

const words = computed(() => {
  const { least = null, most = null } = props.trend ?? {}
  if (least === null || most === null) return 'No good number in the last five minutes'
  return `Between ${valueText(least)} and ${valueText(most)} ${props.unit ?? ''} in the last five minutes`
})
</script>

<template>
  <div class="picture" :class="{ large }"><canvas ref="canvas" role="img" :aria-label="words" /></div>
</template>

<style scoped>
.picture {
  position: relative;
  height: 26px;
  min-width: 0;
}
.large {
  height: 150px;
}
</style>
