import { counted } from '../text/counted'
import { note, type Note } from './kinds'

/** Where a point lies on the far side, as far as two of them can be compared. */
export interface Spot {
  /** Only spots of one place can meet: a table of one unit, a node. */
  place: string
  /** From the first element to after the last. */
  from: number
  to: number
  /** A bit of one element; null: all of it. */
  bit: number | null
  /** How it is read, as a person would say: `float32 CDAB`. */
  reading: string
  /** The address, as it stays whatever tags are called. */
  address: string
  /** The largest raw number that it carries, where its type alone would hold more. */
  most?: number
}

/** What is to be said of a point because of another one; null: nothing. */
export const meeting = (own: Spot, other: Spot, otherPath: string): Note | null => {
  if (own.from >= other.to || other.from >= own.to) return null
  const about = `${other.address} ${other.reading}`
  if (own.from === other.from && own.to === other.to) return samePlace(own, other, otherPath, about)
  if (own.from >= other.from && own.to <= other.to) return note('inside', `is part of ${otherPath}, which is ${other.reading}`, about)
  const words = counted(Math.min(own.to, other.to) - Math.max(own.from, other.from), 'word')
  if (own.from <= other.from && own.to >= other.to) return note('overlap', `holds ${words} of which ${otherPath} is made`, about)
  return note('overlap', `overlaps ${otherPath} by ${words}`, about)
}

/** Bits of a status word beside the word itself are as usual. */
const samePlace = (own: Spot, other: Spot, otherPath: string, about: string): Note | null => {
  if (own.bit !== null || other.bit !== null)
    return own.bit === other.bit && own.bit !== null ? note('duplicate', `reads the same as ${otherPath}`, about) : null
  return own.reading === other.reading
    ? note('duplicate', `reads the same as ${otherPath}`, about)
    : note('otherwise', `reads as ${own.reading} what ${otherPath} reads as ${other.reading}`, about)
}
