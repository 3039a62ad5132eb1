import { placeOf, type MapEntry, type Place } from './entry'

/** Two entries on one register or bit: `at` and `with` are their places in the list, the earlier one in `with`. */
export interface Clash {
  at: number
  with: number
}

interface Placed extends Place {
  index: number
}

/** Entries that lie on what others have. Bits of one register go together; a bit and a whole value do not. */
export const clashesOf = (entries: readonly Pick<MapEntry, 'at' | 'type' | 'length'>[], unit: number): Clash[] => {
  const placed: Placed[] = []
  entries.forEach((entry, index) => {
    const place = placeOf(entry, unit)
    if (place) placed.push({ ...place, index })
  })
  placed.sort(byPlace)
  const clashes: Clash[] = []
  /** Those that may reach over what comes next. */
  let reaching: Placed[] = []
  for (const one of placed) {
    reaching = reaching.filter((other) => other.unit === one.unit && other.table === one.table && other.offset + other.count > one.offset)
    const other = reaching.find((candidate) => candidate.bit === null || one.bit === null || candidate.bit === one.bit)
    if (other) clashes.push({ at: Math.max(one.index, other.index), with: Math.min(one.index, other.index) })
    reaching.push(one)
  }
  return clashes.sort((a, b) => a.at - b.at)
}

const byPlace = (a: Placed, b: Placed) =>
  a.unit - b.unit ||
  (a.table < b.table ? -1 : a.table > b.table ? 1 : 0) ||
  a.offset - b.offset ||
  (a.bit ?? -1) - (b.bit ?? -1) ||
  a.index - b.index
