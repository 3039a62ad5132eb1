<script setup lang="ts">
import {
  BarController,
  BarElement,
  CategoryScale,
  Chart,
  LinearScale,
  LineController,
  LineElement,
  PointElement,
  type ChartEvent,
} from 'chart.js'
import { useTheme } from 'vuetify'
import { statisticsCourse } from '#shared/api/statistics'
import type { MeasuredKind } from '#shared/statistics'
import { courseBars, courseText, type CourseBar } from '~/journal/courseBars'
import { barLabel } from '~/journal/barText'

/** How the last day of one link, outlet or bridge went: requests stand, failures hang, and a line has how long answers took. */
const props = defineProps<{ of: MeasuredKind; id: number; name: string }>()
const theme = useTheme()
const canvas = ref<HTMLCanvasElement | null>(null)
const bars = shallowRef<CourseBar[]>([])
const pointed = ref<number | null>(null)
const refused = shallowRef<Refused | null>(null)
let chart: Chart<'bar' | 'line', (number | null)[]> | null = null

useRepeated(async () => {
  try {
    const { minutes } = await callApi(statisticsCourse, { query: { of: props.of, id: props.id } })
    bars.value = courseBars(minutes)
    refused.value = null
  } catch (error) {
    refused.value = asRefused(error)
  }
}, 10_000)
const said = computed(() => courseText(bars.value, pointed.value))

const font = { size: 11, family: 'IBM Plex Mono' }
const draw = () => {
  if (!chart) return
  const { flow, break: broken, copper, 'on-surface': ink } = theme.current.value.colors
  const [requests, failures, times] = chart.data.datasets
  chart.data.labels = bars.value.map(({ at, width }) => barLabel(at, width))
  requests!.data = bars.value.map((bar) => bar.requests - bar.failures)
  failures!.data = bars.value.map((bar) => -bar.failures)
  times!.data = bars.value.map((bar) => bar.p95)
  requests!.backgroundColor = bars.value.map(() => `${String(flow)}66`)
  failures!.backgroundColor = bars.value.map(() => String(broken))
  times!.borderColor = String(copper)
  const ticks = { color: String(ink), font, maxTicksLimit: 4, precision: 0 }
  const bare = { border: { display: false }, grid: { display: false } }
  chart.options.scales = {
    x: { ...bare, stacked: true, ticks: { color: String(ink), font, maxRotation: 0, autoSkipPadding: 24 } },
    count: { ...bare, stacked: true, position: 'left', suggestedMax: 3, ticks: { ...ticks, callback: (value) => Math.abs(Number(value)) } },
    ms: { ...bare, position: 'right', beginAtZero: true, ticks: { ...ticks, callback: (value) => `${value} ms` } },
  }
  chart.update('none')
}
const barAt = (event: ChartEvent) => {
  const at = event.x === null ? undefined : chart?.scales.x?.getValueForPixel(event.x)
  return at !== undefined && at >= 0 && at < bars.value.length ? at : null
}
const point = (by: number) => {
  const last = bars.value.length - 1
  pointed.value = Math.min(last, Math.max(0, (pointed.value ?? (by > 0 ? -1 : last + 1)) + by))
}
onMounted(() => {
  Chart.register(BarController, BarElement, CategoryScale, LinearScale, LineController, LineElement, PointElement)
  const shape = { type: 'bar' as const, categoryPercentage: 1, barPercentage: 0.86, stack: 'counts', yAxisID: 'count', order: 2 }
  chart = new Chart(canvas.value!, {
    type: 'bar',
    data: {
      labels: [],
      datasets: [
        { ...shape, data: [] },
        { ...shape, data: [] },
        { type: 'line', data: [], yAxisID: 'ms', borderWidth: 1.5, pointRadius: 0, spanGaps: false, order: 1 },
      ],
    },
    options: {
      ...{ animation: false, responsive: true, maintainAspectRatio: false, events: ['mousemove', 'mouseout'] },
      onHover: (event) => (pointed.value = event.type === 'mouseout' ? null : barAt(event)),
    },
  })
  draw()
})
watch([bars, () => theme.global.name.value], draw)
onUnmounted(() => chart?.destroy())
</script>

<template>
  <FaultNote v-if="refused" :fault="refused.why" />
  <div
    class="picture"
    tabindex="0"
    role="group"
    :aria-label="`The day of ${name}: ${said}. Arrows go from bar to bar.`"
    @keydown.left.prevent="point(-1)"
    @keydown.right.prevent="point(1)"
    @blur="pointed = null"
  >
    <canvas ref="canvas" />
  </div>
  <p class="said quiet" aria-live="polite">{{ said }}</p>
</template>

<style scoped>
.picture {
  position: relative;
  height: 150px;
}
.picture:focus-visible {
  outline: 2px solid var(--copper);
}
.said {
  margin: 2px 0 0;
  font-size: 12px;
}
</style>
