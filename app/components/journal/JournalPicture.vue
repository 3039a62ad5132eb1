<script setup lang="ts">
import { BarController, BarElement, CategoryScale, Chart, LinearScale, type ChartEvent } from 'chart.js'
import { useTheme } from 'vuetify'
import { mostPictured, totalsOf, type Bar } from '#core/journal/picture'
import { counted } from '#core/text/counted'
import { duration } from '#core/text/duration'
import { barLabel, barText } from '~/journal/barText'

/** How often something happened over time: what went wrong hangs below the line, all else stands on it. A press on a bar narrows to it. */
const props = defineProps<{ bars: Bar[]; width: number; isWhole: boolean }>()
const emit = defineEmits<{ narrow: [from: number, to: number] }>()
const theme = useTheme()
const canvas = ref<HTMLCanvasElement | null>(null)
let chart: Chart<'bar', number[]> | null = null
const pointed = ref<number | null>(null)

const totals = computed(() => totalsOf(props.bars))
const said = computed(() => {
  const bar = pointed.value === null ? null : props.bars[pointed.value]
  if (bar) return barText(bar, props.width)
  const { note, caution, trouble } = totals.value
  const what = [counted(trouble, 'trouble'), counted(caution, 'caution'), counted(note, 'note')].join(', ')
  return `${what}; a bar is ${duration(props.width)}${props.isWhole ? '' : `; only the newest ${mostPictured.toLocaleString('en-GB')} are drawn`}`
})

const font = { size: 11, family: 'IBM Plex Mono' }
const draw = () => {
  if (!chart) return
  const { flow, copper, break: broken, 'on-surface': ink } = theme.current.value.colors
  chart.data.labels = props.bars.map(({ at }) => barLabel(at, props.width))
  const [below, above, cautions] = chart.data.datasets
  above!.data = props.bars.map(({ note }) => note)
  // one for each: a single colour stays as it was in the other theme
  const each = (colour: string) => props.bars.map(() => colour)
  above!.backgroundColor = each(`${String(flow)}66`)
  cautions!.data = props.bars.map(({ caution }) => caution)
  cautions!.backgroundColor = each(String(copper))
  below!.data = props.bars.map(({ trouble }) => trouble)
  below!.backgroundColor = each(String(broken))
  const line = `${String(ink)}66`
  const counts = { border: { display: false }, grid: { display: false }, beginAtZero: true, suggestedMax: 3 }
  const ticks = { color: String(ink), font, maxTicksLimit: 3, precision: 0 }
  chart.options.scales = {
    x: { stacked: true, position: { below: 0 }, border: { color: line }, grid: { display: false }, ticks: { display: false } },
    labels: {
      ...{ type: 'category', position: 'bottom', border: { display: false }, grid: { display: false } },
      ticks: { color: String(ink), font, maxRotation: 0, autoSkipPadding: 24 },
    },
    above: { ...counts, stacked: true, stack: 'counts', stackWeight: 2, ticks },
    below: {
      ...counts,
      stack: 'counts',
      stackWeight: 1,
      reverse: true,
      ticks: { ...ticks, callback: (value) => (Number(value) === 0 ? '' : value) },
    },
  }
  chart.update('none')
}
const barAt = (event: ChartEvent) => {
  const at = event.x === null ? undefined : chart?.scales.x?.getValueForPixel(event.x)
  return at !== undefined && at >= 0 && at < props.bars.length ? at : null
}
const narrow = (index: number) => {
  const bar = props.bars[index]
  if (bar) emit('narrow', bar.at, bar.at + props.width)
}
const point = (by: number) => {
  const last = props.bars.length - 1
  pointed.value = Math.min(last, Math.max(0, (pointed.value ?? (by > 0 ? -1 : last + 1)) + by))
}

onMounted(() => {
  Chart.register(BarController, BarElement, CategoryScale, LinearScale)
  const shape = { categoryPercentage: 1, barPercentage: 0.86, xAxisID: 'x' }
  chart = new Chart(canvas.value!, {
    type: 'bar',
    data: {
      labels: [],
      datasets: [
        // the axis that is named first lies lowest
        { ...shape, data: [], yAxisID: 'below', stack: 'counts' },
        { ...shape, data: [], yAxisID: 'above', stack: 'counts' },
        { ...shape, data: [], yAxisID: 'above', stack: 'counts' },
      ],
    },
    options: {
      ...{ animation: false, responsive: true, maintainAspectRatio: false, events: ['mousemove', 'mouseout', 'click'] },
      onHover: (event) => (pointed.value = event.type === 'mouseout' ? null : barAt(event)),
      onClick: (event) => narrow(barAt(event) ?? -1),
    },
  })
  draw()
})
watch([() => props.bars, () => theme.global.name.value], draw)
onUnmounted(() => chart?.destroy())
</script>

<template>
  <section class="sheet picture-sheet" aria-label="Picture over time">
    <div
      class="picture"
      tabindex="0"
      role="group"
      :aria-label="`How often something happened: ${said}. Arrows go from bar to bar, Enter narrows to one.`"
      @keydown.left.prevent="point(-1)"
      @keydown.right.prevent="point(1)"
      @keydown.enter.prevent="pointed !== null && narrow(pointed)"
      @blur="pointed = null"
    >
      <canvas ref="canvas" />
    </div>
    <p class="said quiet" aria-live="polite">{{ said }}</p>
  </section>
</template>

<style scoped>
.picture-sheet {
  padding: 10px 14px 8px;
  margin-bottom: 12px;
}
.picture {
  position: relative;
  height: 116px;
  cursor: pointer;
}
.picture:focus-visible {
  outline: 2px solid var(--copper);
}
.said {
  margin: 2px 0 0;
  font-size: 12px;
}
</style>
