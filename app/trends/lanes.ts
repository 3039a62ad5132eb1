import type { ChartArea, Plugin, Scale } from 'chart.js'
import type { Run } from '#core/history/runs'
import { runText } from '#core/trends/drawn'
import { lineColour } from './colours'
import type { Line } from './lines'

/** Series of texts, each in a lane above the lines: a block for as long as it had a text. */

const laneHeight = 20
const gap = 4
/** Narrower ones have no room for a word. */
const narrowest = 22

/** What the axis below has its topmost figure in. */
const below = 8

/** How much room is to be left above the lines, pixels. */
export const lanesHeight = (lines: readonly Line[]) => {
  const count = lines.filter(({ runs }) => runs).length
  return count === 0 ? 0 : count * (laneHeight + gap) + below
}

interface Lanes {
  lines: readonly Line[]
  dark: boolean
  ink: string
  font: string
}

export const lanes = (of: (chart: object) => Lanes): Plugin<'line'> => ({
  id: 'lanes',
  afterDatasetsDraw(chart) {
    const { ctx, chartArea, scales } = chart
    const { lines, dark, ink, font } = of(chart)
    ctx.save()
    ctx.font = font
    ctx.textBaseline = 'middle'
    ctx.textAlign = 'left'
    let top = gap / 2
    for (const line of lines) {
      if (!line.runs) continue
      const lane = { ctx, area: chartArea, scale: scales.x!, top, ink, colour: lineColour(line.colour, dark), isFaint: line.isBeside }
      for (const [i, run] of line.runs.entries()) drawRun(lane, run, i)
      top += laneHeight + gap
    }
    ctx.restore()
  },
})

interface Lane {
  ctx: CanvasRenderingContext2D
  area: ChartArea
  scale: Scale
  top: number
  ink: string
  colour: string
  isFaint: boolean
}

const drawRun = ({ ctx, area, scale, top, ink, colour, isFaint }: Lane, run: Run, i: number) => {
  const left = Math.max(area.left, scale.getPixelForValue(run.from))
  const right = Math.min(area.right, scale.getPixelForValue(run.to))
  if (right <= left) return
  const width = Math.max(1, right - left)
  // neighbours differ, so that one sees where one ends; what changed too fast is hatched
  ctx.fillStyle = colour + (isFaint ? '1c' : i % 2 === 0 ? '4d' : '2b')
  ctx.fillRect(left, top, width, laneHeight)
  ctx.fillStyle = colour
  ctx.fillRect(left, top, Math.min(2, width), laneHeight)
  if (run.several > 0) hatch(ctx, left, top, width, colour)
  if (width < narrowest) return
  ctx.fillStyle = ink
  ctx.fillText(fitting(ctx, runText(run), width - 10), left + 6, top + laneHeight / 2 + 1)
}

const hatch = (ctx: CanvasRenderingContext2D, left: number, top: number, width: number, colour: string) => {
  ctx.save()
  ctx.beginPath()
  ctx.rect(left, top, width, laneHeight)
  ctx.clip()
  ctx.strokeStyle = `${colour}80`
  ctx.lineWidth = 1
  ctx.beginPath()
  for (let x = left - laneHeight; x < left + width; x += 5) {
    ctx.moveTo(x, top + laneHeight)
    ctx.lineTo(x + laneHeight, top)
  }
  ctx.stroke()
  ctx.restore()
}

/** As much of a text as there is room for. */
const fitting = (ctx: CanvasRenderingContext2D, text: string, width: number): string => {
  const line = text.replaceAll(/\s+/g, ' ')
  if (ctx.measureText(line).width <= width) return line
  let [low, high] = [0, line.length]
  while (low < high) {
    const middle = (low + high + 1) >> 1
    if (ctx.measureText(`${line.slice(0, middle)}…`).width <= width) low = middle
    else high = middle - 1
  }
  return low === 0 ? '' : `${line.slice(0, low)}…`
}
