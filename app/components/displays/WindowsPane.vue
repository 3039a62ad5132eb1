<script setup lang="ts">
import { BarController, BarElement, CategoryScale, Chart, LinearScale } from 'chart.js'
import { useTheme } from 'vuetify'
import type { Pane, Shows } from '#core/displays/settings'
import { windowText } from '#core/equipment/windows'
import { rollupWord } from '#core/equipment/words'
import { isGood } from '#core/tags/quality'
import { valueText } from '#core/text/number'
import { windowLabel } from '~/displays/windowLabel'

/** A bar for each of the last windows; the one at hand is open at its top. */
const props = defineProps<{ pane: Pane; shows: Shows & { kind: 'windows' } }>()
const theme = useTheme()
const canvas = ref<HTMLCanvasElement | null>(null)
let chart: Chart<'bar', (number | null)[]> | null = null
const { content, refused } = useFilled(
  'windows',
  () => props.pane,
  () => 100,
  () => (props.shows.each.unit === 'second' ? 1000 : props.shows.each.unit === 'minute' ? 3000 : 15_000),
)
const windows = computed(() => content.value?.series?.windows ?? [])
const said = computed(() => `${rollupWord(props.shows.how)}, each ${windowText(props.shows.each)}`)
const latest = computed(() => windows.value.at(-1))
const unit = computed(() => content.value?.series?.unit ?? '')

const font = { size: 11, family: 'IBM Plex Mono' }
const draw = () => {
  if (!chart) return
  const { flow, copper, 'on-surface': ink } = theme.current.value.colors
  const now = Date.now()
  chart.data.labels = windows.value.map(({ from }) => windowLabel(from, props.shows.each.unit))
  chart.data.datasets[0]!.data = windows.value.map(({ value }) => value)
  chart.data.datasets[0]!.backgroundColor = windows.value.map(({ to, quality }) =>
    to > now ? `${String(flow)}66` : isGood(quality) ? String(flow) : `${String(copper)}aa`,
  )
  const grid = `${String(ink)}1a`
  chart.options.scales = {
    x: { grid: { display: false }, border: { color: grid }, ticks: { color: String(ink), font, maxRotation: 0, autoSkipPadding: 10 } },
    y: {
      ...{ beginAtZero: true, border: { display: false }, grid: { color: grid, drawTicks: false } },
      ticks: { color: String(ink), font, maxTicksLimit: 5, callback: (value) => valueText(Number(value)) },
    },
  }
  chart.update('none')
}
onMounted(() => {
  Chart.register(BarController, BarElement, CategoryScale, LinearScale)
  chart = new Chart(canvas.value!, {
    type: 'bar',
    data: { labels: [], datasets: [{ data: [], maxBarThickness: 40, categoryPercentage: 0.9, barPercentage: 0.9 }] },
    options: { animation: false, responsive: true, maintainAspectRatio: false, events: [] },
  })
  draw()
})
watch([windows, () => theme.global.name.value], draw)
onUnmounted(() => chart?.destroy())
</script>

<template>
  <div class="windows-pane">
    <FaultNote v-if="refused && !content" :fault="refused.why" mild />
    <p v-else-if="content && !content.series" class="is-broken">Nothing goes by this name.</p>
    <p class="said quiet">
      {{ said }}<template v-if="unit">, {{ unit }}</template>
      <template v-if="latest && latest.value !== null"> · so far {{ valueText(Number(latest.value.toPrecision(5))) }}</template>
      <span v-if="content?.series && windows.every(({ value }) => value === null)" class="is-late"> · nothing was recorded yet</span>
    </p>
    <div class="picture">
      <canvas ref="canvas" role="img" :aria-label="`${said}: ${windows.map(({ value }) => value ?? 'nothing').join(', ')}`" />
    </div>
  </div>
</template>

<style scoped>
.windows-pane {
  height: 100%;
  display: flex;
  flex-direction: column;
  min-height: 0;
}
.said {
  margin: 0;
  font-size: 12px;
}
.picture {
  position: relative;
  flex: 1;
  min-height: 0;
  min-width: 0;
}
</style>
