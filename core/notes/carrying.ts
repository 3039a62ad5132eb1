import { isRanges } from '../tags/curve'
import { toRaw, wholeScaling, type Made } from '../tags/scaling'
import { integerRanges, isNumeric, type DataType } from '../tags/types'
import { note, type Note } from './kinds'

interface Carried extends Made {
  type: DataType
  range: { low: number; high: number } | null
}

/** Whether a type can carry what a tag is said to measure. */
export const carryingNotes = (tag: Carried): Note[] => {
  if (!isNumeric(tag.type)) return []
  const whole = wholeScaling(tag)
  const holds = integerRanges[tag.type]
  if (holds && tag.scaling && isRanges(tag.scaling)) {
    const { low, high } = tag.scaling.raw
    const beyond = [low, high].find((end) => end < Number(holds.low) || end > Number(holds.high))
    if (beyond !== undefined) return [note('range', `its raw range goes to ${beyond}, and ${tag.type} holds ${holds.low} to ${holds.high}`)]
  }
  const { range } = tag
  if (!range) return []
  const ends = [range.low, range.high].map((end) => ({ end, raw: toRaw(end, tag.type === 'float32' ? 'float32' : tag.type, whole) }))
  const beyond = ends.find(({ raw }) => !raw.ok && raw.reason === 'range')
  if (!beyond || beyond.raw.ok) return []
  return [note('range', `its range goes to ${beyond.end}: ${beyond.raw.detail}`)]
}
