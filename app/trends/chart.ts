import { Chart, LinearScale, LineController, LineElement, PointElement, type ChartOptions, type Plugin, type Scale } from 'chart.js'
import zoomPlugin from 'chartjs-plugin-zoom'
import { valueText } from '#core/text/number'
import type { Drawn } from '#core/trends/drawn'
import { timeMarks } from '#core/trends/ticks'
import { lineColour } from './colours'
import { lanes, lanesHeight } from './lanes'
import type { Line } from './lines'

export type TrendChart = Chart<'line', Drawn[]>

/** What is drawn besides the lines. */
export interface Around {
  from: number
  to: number
  cursors: readonly (number | null)[]
  /** Where the line that is looked at had nothing good. */
  gaps: readonly (readonly [number, number])[]
  /** Whether nothing of that line was recorded before the span. */
  isFirst: boolean
  ranges: readonly { axis: string; low: number; high: number }[]
  /** Those that stand above the lines. */
  texts: readonly Line[]
  dark: boolean
  ink: string
  broken: string
}

const font = { size: 11, family: 'IBM Plex Sans' }
const mono = { size: 11, family: 'IBM Plex Mono' }
/** A mark of the time axis takes so many pixels. */
const markWidth = 96

const shade: Plugin<'line'> = {
  id: 'gaps',
  beforeDatasetsDraw(chart) {
    const { ctx, chartArea, scales } = chart
    const around = aroundOf(chart as TrendChart)
    for (const [from, to] of around.gaps) {
      const isBefore = around.isFirst && from <= around.from
      const left = Math.max(chartArea.left, scales.x!.getPixelForValue(from))
      const right = Math.min(chartArea.right, scales.x!.getPixelForValue(to))
      if (right <= left) continue
      ctx.fillStyle = isBefore ? `${around.ink}0a` : `${around.broken}18`
      ctx.fillRect(left, chartArea.top, Math.max(1, right - left), chartArea.bottom - chartArea.top)
      if (right - left < 80) continue
      ctx.fillStyle = isBefore ? around.ink : around.broken
      ctx.font = `10px ${font.family}`
      ctx.textAlign = 'left'
      ctx.fillText(isBefore ? 'not recorded yet' : 'nothing good', left + 4, chartArea.top + 12)
    }
  },
}

const cursors: Plugin<'line'> = {
  id: 'cursors',
  afterDatasetsDraw(chart) {
    const { ctx, chartArea, scales } = chart
    const { cursors: places, ink } = aroundOf(chart as TrendChart)
    for (const [i, at] of places.entries()) {
      if (at === null) continue
      const x = scales.x!.getPixelForValue(at)
      if (x < chartArea.left || x > chartArea.right) continue
      ctx.save()
      ctx.strokeStyle = ink
      ctx.setLineDash([3, 3])
      ctx.beginPath()
      ctx.moveTo(x, 0)
      ctx.lineTo(x, chartArea.bottom)
      ctx.stroke()
      ctx.fillStyle = ink
      ctx.font = `600 11px ${font.family}`
      ctx.textAlign = x > chartArea.right - 16 ? 'right' : 'left'
      ctx.fillText(String(i + 1), x + (x > chartArea.right - 16 ? -5 : 5), chartArea.top + 11)
      ctx.restore()
    }
  },
}

const drawnAround = new WeakMap<object, Around>()
const nothing: Around = {
  from: 0,
  to: 1,
  cursors: [],
  gaps: [],
  isFirst: false,
  ranges: [],
  texts: [],
  dark: false,
  ink: '#000000',
  broken: '#000000',
}
const aroundOf = (chart: TrendChart): Around => drawnAround.get(chart) ?? nothing

const textLanes = lanes((chart) => {
  const { texts, dark, ink } = aroundOf(chart as TrendChart)
  return { lines: texts, dark, ink, font: `11px ${font.family}` }
})

/** @param zoomed the span that somebody chose by wheel or drag; null: nobody does */
export const openChart = (canvas: HTMLCanvasElement, zoomed: ((from: number, to: number) => void) | null): TrendChart => {
  Chart.register(LineController, LineElement, PointElement, LinearScale, zoomPlugin)
  const tell = ({ chart }: { chart: Chart }) => {
    const { min, max } = chart.scales.x!
    zoomed?.(min, max)
  }
  const options: ChartOptions<'line'> = {
    animation: false,
    responsive: true,
    maintainAspectRatio: false,
    parsing: false,
    normalized: true,
    events: [],
    plugins: {
      zoom: {
        zoom: {
          wheel: { enabled: zoomed !== null, speed: 0.15 },
          drag: { enabled: zoomed !== null, threshold: 6 },
          mode: 'x',
          onZoomComplete: tell,
        },
        pan: { enabled: zoomed !== null, mode: 'x', modifierKey: 'shift', onPanComplete: tell },
      },
    },
    scales: { x: timeAxis() },
  }
  return new Chart(canvas, { type: 'line', data: { datasets: [] }, options, plugins: [shade, textLanes, cursors] })
}

const timeAxis = () => ({
  type: 'linear' as const,
  border: { display: false },
  grid: { drawTicks: false },
  afterBuildTicks: (axis: Scale) => {
    axis.ticks = timeMarks(axis.min, axis.max, Math.max(2, Math.floor(axis.width / markWidth))).map(({ at, text }) => ({
      value: at,
      label: text,
    }))
  },
  ticks: {
    font: mono,
    maxRotation: 0,
    padding: 6,
    callback: (_: unknown, i: number, ticks: { label?: unknown }[]) => String(ticks[i]?.label ?? ''),
  },
})

const lineWidth = 1.4

export const drawChart = (chart: TrendChart, all: readonly Line[], looks: Omit<Around, 'texts'>) => {
  const [lines, texts] = [all.filter(({ runs }) => !runs), all.filter(({ runs }) => runs)]
  const around = { ...looks, texts }
  drawnAround.set(chart, around)
  chart.options.layout = { padding: { top: lanesHeight(all) } }
  const axes = [...new Set(lines.map(({ axis }) => axis))]
  chart.data.datasets = lines.map((line) => {
    const colour = lineColour(line.colour, around.dark)
    return {
      label: line.path,
      data: line.points,
      yAxisID: `y${axes.indexOf(line.axis)}`,
      borderColor: line.isBeside ? `${colour}66` : colour,
      borderWidth: lineWidth,
      pointRadius: 0,
      stepped: line.inSteps ? ('before' as const) : false,
      spanGaps: false,
    }
  })
  const grid = `${around.ink}1a`
  const scales: Record<string, object> = {
    x: {
      ...timeAxis(),
      min: around.from,
      max: around.to,
      grid: { drawTicks: false, color: grid },
      ticks: { ...timeAxis().ticks, color: around.ink },
    },
  }
  for (const [i, axis] of axes.entries()) scales[`y${i}`] = valueAxis(axis, i, lines, around, grid)
  if (axes.length === 0) scales.y0 = { type: 'linear', min: 0, max: 1, ticks: { display: false }, grid: { color: grid } }
  chart.options.scales = scales as never
  chart.update('none')
}

const valueAxis = (axis: string, index: number, lines: readonly Line[], { ranges, dark, ink }: Around, grid: string) => {
  const mine = lines.filter((line) => line.axis === axis)
  const range = ranges.find((one) => one.axis === axis)
  const isSwitch = mine.every(({ type }) => type === 'bool')
  const colour = new Set(mine.map((line) => line.colour)).size === 1 ? lineColour(mine[0]!.colour, dark) : ink
  return {
    type: 'linear',
    position: index % 2 === 0 ? 'left' : 'right',
    border: { display: false },
    grid: { drawTicks: false, drawOnChartArea: index === 0, color: grid },
    ...(range ? { min: range.low, max: range.high } : isSwitch ? { min: -0.1, max: 1.1 } : { grace: '6%' }),
    title: { display: true, text: axis, color: colour, font, padding: 2 },
    ticks: {
      ...{ color: colour, font: mono, maxTicksLimit: 7, padding: 4 },
      ...(isSwitch ? { stepSize: 1 } : {}),
      callback: (value: string | number) => (isSwitch ? switchText(Number(value)) : valueText(Number(value))),
    },
  }
}

const switchText = (value: number) => (value === 0 ? 'off' : value === 1 ? 'on' : '')
