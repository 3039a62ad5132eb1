import { dialectOf, withoutHint } from '../formats/csv/dialect'
import { numberIn, type DecimalSign } from '../formats/csv/numbers'
import { recordsOf, UnreadableCsv, withPlainLines, type CsvRecord } from '../formats/csv/records'

/** A recorded course of values: what came how long after the first, ms. */
export interface Recording {
  at: number[]
  values: number[]
}

export type ReadRecording = { ok: true; recording: Recording } | { ok: false; problem: string }

const mostRows = 20_000

/**
 * Reads a table of times and values: two columns, with or without a header; times as ISO 8601 or as seconds.
 * Times must not go back.
 */
export const readRecording = (text: string): ReadRecording => {
  const { text: plain } = withoutHint(withPlainLines(text))
  const { delimiter, decimal } = dialectOf(plain, () => false)
  const recording: Recording = { at: [], values: [] }
  try {
    for (const records of recordsOf(plain, delimiter))
      for (const record of records) {
        const problem = takeLine(recording, record, decimal)
        if (problem) return { ok: false, problem: `line ${record.line}: ${problem}` }
      }
  } catch (error) {
    if (error instanceof UnreadableCsv) return { ok: false, problem: error.message }
    throw error
  }
  const first = recording.at[0]
  if (first === undefined) return { ok: false, problem: 'it holds no line with a time and a value' }
  return { ok: true, recording: { ...recording, at: recording.at.map((at) => at - first) } }
}

/** @returns what is wrong with the line; null: nothing */
const takeLine = ({ at, values }: Recording, { line, cells }: CsvRecord, decimal: DecimalSign): string | null => {
  const [first = '', second = ''] = cells
  const [time, value] = [timeIn(first, decimal), numberIn(second.trim(), decimal)]
  if (time === null) return line <= 1 ? null : `“${first}” is no time`
  if (value === null) return `“${second}” is no number`
  if (time < (at.at(-1) ?? -Infinity)) return 'its time lies before that of the line above'
  if (at.length >= mostRows) return `there are more than ${mostRows} lines`
  at.push(time)
  values.push(value)
  return null
}

/** Unix milliseconds, or milliseconds where it is a number of seconds. */
const timeIn = (cell: string, decimal: DecimalSign): number | null => {
  const seconds = numberIn(cell.trim(), decimal)
  if (seconds !== null) return seconds * 1000
  const time = /^\d{4}-\d\d-\d\d/.test(cell.trim()) ? Date.parse(cell.trim().replace(' ', 'T')) : NaN
  return Number.isNaN(time) ? null : time
}

/** The value so long after the start, the recording played again and again. */
export const valueAt = ({ at, values }: Recording, sinceStart: number): number => {
  const last = at[at.length - 1]!
  // the last value stays as long as the step before it, else it would never be seen
  const length = last + (at.length > 1 ? Math.max(1, last - at[at.length - 2]!) : 1)
  const now = ((sinceStart % length) + length) % length
  let [low, high] = [0, at.length]
  while (low < high) {
    const middle = (low + high) >> 1
    if (at[middle]! <= now) low = middle + 1
    else high = middle
  }
  return values[Math.max(0, low - 1)]!
}
