import { isRanges } from '../tags/curve'
import { toRaw, wholeScaling, type Made } from '../tags/scaling'
import { integerRanges, isNumeric, type DataType } from '../tags/types'
import { note, type Note } from './kinds'

interface Carried extends Made {
  type: DataType
  range: { low: number; high: number } | null
}

/** Whether a type can carry what a tag is said to measure. @param most the largest raw number, where that is less than the type holds */
export const carryingNotes = (tag: Carried, most?: number): Note[] => {
  if (!isNumeric(tag.type)) return []
  const beyond = beyondRaw(tag, most) ?? beyondRange(tag, most)
  return beyond === null ? [] : [note('range', beyond)]
}

/** The raw range of a scaling that goes beyond the type. */
const beyondRaw = ({ type, scaling }: Carried, most?: number): string | null => {
  const holds = integerRanges[type]
  if (!holds || !scaling || !isRanges(scaling)) return null
  const ends = { low: Number(holds.low), high: most ?? Number(holds.high) }
  const beyond = [scaling.raw.low, scaling.raw.high].find((end) => end < ends.low || end > ends.high)
  return beyond === undefined
    ? null
    : `its raw range goes to ${beyond}, and ${most === undefined ? type : 'it'} holds ${ends.low} to ${ends.high}`
}

/** What it is said to measure, made raw. */
const beyondRange = (tag: Carried, most = Infinity): string | null => {
  const { type, range } = tag
  if (!range) return null
  const whole = wholeScaling(tag)
  for (const end of [range.low, range.high]) {
    const raw = toRaw(end, type, whole)
    if (!raw.ok && raw.reason === 'range') return `its range goes to ${end}: ${raw.detail}`
    if (raw.ok && Number(raw.raw) > most) return `its range goes to ${end}: ${Number(raw.raw)} on the wire, and it holds 0 to ${most}`
  }
  return null
}
