import { meant } from '../formats/csv/formulas'
import { dialectOf, withoutHint } from '../formats/csv/dialect'
import { noNumber, numberIn, type DecimalSign } from '../formats/csv/numbers'
import { recordsOf, UnreadableCsv, withPlainLines } from '../formats/csv/records'
import { statusCodeNamed } from '../tags/quality'
import { isNumeric, type DataType } from '../tags/types'

/** What was recorded elsewhere, as a table in the form in which ours is handed out: path, time, value, text, quality. */

const columns = ['path', 'time', 'value', 'text', 'quality'] as const
type Column = (typeof columns)[number]

export interface PastSample {
  series: number
  /** Unix milliseconds. */
  at: number
  /** An OPC UA status code. */
  quality: number
  /** NaN: it has none. */
  number: number
  text: string | null
}

export interface KnownSeries {
  id: number
  type: DataType
}

export class WrongPast extends Error {
  constructor(
    readonly line: number,
    readonly problem: string,
  ) {
    super(`line ${line}: ${problem}`)
  }
}

interface Around {
  /** The series of a path; undefined: there is none. */
  seriesOf(path: string): KnownSeries | undefined
  /** Samples are no older, and earlier than; Unix milliseconds. */
  from: number
  to: number
  most: number
}

/** Reads a table line by line; the first that is wrong ends it: WrongPast. */
export function* readPast(written: string, around: Around): Generator<PastSample> {
  const { text, hint, lines } = withoutHint(withPlainLines(written.replace(/^\ufeff/, '')))
  const { delimiter, decimal } = dialectOf(text, (cell) => columns.includes(cell.trim().toLowerCase() as Column))
  let at: ReadonlyMap<Column, number> | null = null
  let count = 0
  try {
    for (const piece of recordsOf(text, hint ?? delimiter))
      for (const { line, cells } of piece) {
        if (!at) at = placesOf(cells, line + lines)
        else if (++count > around.most)
          throw new WrongPast(line + lines, `there are more than ${around.most.toLocaleString('en-GB')} lines.`)
        else yield sampleOf(cells, at, line + lines, decimal, around)
      }
  } catch (error) {
    throw error instanceof UnreadableCsv ? new WrongPast(error.line + lines, error.problem) : error
  }
}

const placesOf = (cells: readonly string[], line: number): ReadonlyMap<Column, number> => {
  const names = cells.map((cell) => cell.trim().toLowerCase())
  const found = new Map(columns.flatMap((column): [Column, number][] => (names.includes(column) ? [[column, names.indexOf(column)]] : [])))
  const missing = (['path', 'time'] as const).find((column) => !found.has(column))
  if (missing || !(found.has('value') || found.has('text')))
    throw new WrongPast(line, 'the first line names the columns: path, time and value, and where they are wanted text and quality.')
  return found
}

const sampleOf = (
  cells: readonly string[],
  at: ReadonlyMap<Column, number>,
  line: number,
  decimal: DecimalSign,
  around: Around,
): PastSample => {
  const cell = (column: Column) => {
    const place = at.get(column)
    return place === undefined ? '' : meant((cells[place] ?? '').trim())
  }
  const wrong = (problem: string): never => {
    throw new WrongPast(line, problem)
  }
  const path = cell('path')
  const series = around.seriesOf(path) ?? wrong(`there is no tag “${path}”, and never was one that was recorded.`)
  const time = momentIn(cell('time'))
  if (Number.isNaN(time)) wrong(`“${cell('time')}” is no time; it is as in 2026-11-28T05:00:00Z, or Unix milliseconds.`)
  if (time < around.from) wrong(`${cell('time')} is older than single samples are kept.`)
  if (time >= around.to) wrong(`${cell('time')} is too fresh: what goes on now is recorded by itself.`)
  const code = cell('quality') === '' ? 0 : statusCodeNamed(cell('quality'))
  if (code === undefined) return wrong(`“${cell('quality')}” is no quality; it is a status code such as Good or BadNoData.`)
  return { series: series.id, at: time, quality: code, ...valueIn(cell('value'), cell('text'), series.type, decimal, wrong) }
}

const momentIn = (text: string): number => (/^\d+$/.test(text) ? Number(text) : Date.parse(text))

const valueIn = (
  value: string,
  text: string,
  type: DataType,
  decimal: DecimalSign,
  wrong: (problem: string) => never,
): Pick<PastSample, 'number' | 'text'> => {
  if (type === 'bool' && /^(true|false)$/i.test(value)) return { number: Number(value.toLowerCase() === 'true'), text: null }
  if (type !== 'bool' && type !== 'datetime' && !isNumeric(type)) return { number: NaN, text: text || value || null }
  if (value === '') return { number: NaN, text: text || null }
  const number = numberIn(value, decimal) ?? wrong(noNumber(value, decimal))
  return { number, text: text || null }
}
