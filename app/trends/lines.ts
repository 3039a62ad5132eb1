import { hasTexts, type Run } from '#core/history/runs'
import { drawnPoints, type Drawn } from '#core/trends/drawn'
import type { DataType } from '#core/tags/types'
import type { ValueName } from '#core/tags/valueNames'
import type { SeriesPicture } from '#shared/history'
import type { DrawnSeries } from '#shared/trendSet'

/** One line of the picture. */
export interface Line {
  key: string
  id: number
  path: string
  unit: string
  type: DataType
  names: readonly ValueName[]
  colour: number
  /** Of an earlier span, drawn beside. */
  isBeside: boolean
  inSteps: boolean
  axis: string
  points: Drawn[]
  /** Of a series of texts, which stand above the lines; null: it is a line. */
  runs: readonly Run[] | null
  gaps: readonly (readonly [number, number])[]
  picture: SeriesPicture
}

const drawnAsLine = new Set<DataType>(['float32', 'float64'])
export const inStepsBy = ({ steps }: Pick<DrawnSeries, 'steps'>, type: DataType) => steps ?? !drawnAsLine.has(type)

/** Which axis a series has: one that was named for it, or that of its unit. */
export const axisOf = ({ axis }: Pick<DrawnSeries, 'axis'>, { type, unit }: Pick<SeriesPicture, 'type' | 'unit'>) =>
  axis || (type === 'bool' ? 'off / on' : unit || 'without unit')

/** Values with names are drawn as these, unless somebody says otherwise. */
const isOfTexts = ({ steps }: Pick<DrawnSeries, 'steps'>, { runs, type }: SeriesPicture) =>
  runs !== null && (hasTexts(type) || steps === null)

/** @param shift by how much earlier it was than it is drawn; 0: it is not beside another */
export const lineOf = (series: DrawnSeries, picture: SeriesPicture, until: number, shift: number): Line => {
  const inSteps = inStepsBy(series, picture.type)
  const { id, path, unit, type, names } = picture
  return {
    ...{ key: shift > 0 ? `${id} beside` : String(id), id, path, unit, type, names, picture, inSteps },
    ...{ colour: series.colour, isBeside: shift > 0, axis: axisOf(series, picture) },
    points: drawnPoints(picture, inSteps, until - shift, shift),
    runs: isOfTexts(series, picture) ? picture.runs!.map((run) => ({ ...run, from: run.from + shift, to: run.to + shift })) : null,
    gaps: picture.gaps.map(([from, to]) => [from + shift, to + shift] as const),
  }
}
