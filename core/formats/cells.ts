import type { Reading } from './column'
import { noNumber, numberIn } from './csv/numbers'

export type Read<T> = { ok: true; value: T } | { ok: false; problem: string }

/** Sets what a cell was read as. @returns what is wrong with the cell; null: nothing */
export const set = <T>(read: Read<T>, into: (value: T) => void): string | null => {
  if (!read.ok) return read.problem
  into(read.value)
  return null
}

/** What an empty cell means, else what it is read as. */
export const orElse = <T, E>(cell: string, empty: E, read: (cell: string) => Read<T>): Read<T | E> =>
  cell === '' ? { ok: true, value: empty } : read(cell)

export const numberCell = (cell: string, { decimal }: Pick<Reading<unknown>, 'decimal'>): Read<number> => {
  const value = numberIn(cell, decimal)
  return value === null ? { ok: false, problem: noNumber(cell, decimal) } : { ok: true, value }
}

const spans: Record<string, number> = { '': 1, ms: 1, s: 1000, min: 60_000, h: 3_600_000 }

/** A span of time: milliseconds, or a number with its unit, as in `1.5 s`. @returns milliseconds */
export const spanCell = (cell: string, reading: Pick<Reading<unknown>, 'decimal'>): Read<number> => {
  const [, figure = '', unit = ''] = /^(\S+?)\s*(ms|s|min|h)?$/.exec(cell) ?? []
  const number = numberCell(figure, reading)
  if (!number.ok) return { ok: false, problem: `“${cell}” is no time: write milliseconds, or a number with ms, s, min or h.` }
  return { ok: true, value: Number((number.value * spans[unit]!).toPrecision(12)) }
}

/** One of a few words, whatever their case. */
export const wordCell = <T extends string>(cell: string, words: readonly T[], what: string): Read<T> => {
  const found = words.find((word) => word.toLowerCase() === cell.toLowerCase())
  return found === undefined ? { ok: false, problem: `“${cell}” is no ${what}: ${listed(words)}.` } : { ok: true, value: found }
}

const mostListed = 16
const listed = (words: readonly string[]) => `${words.slice(0, mostListed).join(', ')}${words.length > mostListed ? ' …' : ''}`
