import type { Table } from '../address'

/** What is told where a value is not good: a number that means none, nothing at all, or what was good last. */
export const whenNotGood = ['marker', 'refuse', 'last'] as const
export type WhenNotGood = (typeof whenNotGood)[number]

/** What is told of offsets between those of a map. */
export const gapWays = ['refuse', 'zero'] as const
export type GapWay = (typeof gapWays)[number]

export interface MapWays {
  /** Of entries that name none. */
  unit: number
  gaps: GapWay
  notGood: WhenNotGood
}

/** `holding/40 to 43`. */
export const rangeText = (table: Table, offset: number, count: number) =>
  count === 1 ? `${table}/${offset}` : `${table}/${offset} to ${offset + count - 1}`
