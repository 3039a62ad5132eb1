import { variantText, type AddressVariant } from '../links/variants'
import type { DataType } from '../tags/types'

/** What was found out about a single point: what it gives, and what others give that may have been meant. */
export interface PointFacts {
  path: string
  address: string
  /** As the tag reads it; absent: the point gives nothing. */
  reads?: { text: string; against: readonly string[] }
  /** The other way to read the same bytes for which most speaks. */
  otherWay?: { label: string; text: string; reasons: readonly string[] }
  /** What the far side says for addresses that people mean who write this one. */
  variants?: readonly TriedVariant[]
  /** How long it has not moved, and how many other tags of the same link moved meanwhile, of how many. */
  still?: { ms: number; moved: number; others: number }
}

export interface TriedVariant extends AddressVariant {
  /** What it gives, as the tag would read it; null: it is refused. */
  gives: string | null
  /** What speaks against that value. */
  against: readonly string[]
  /** In the far side’s words, where it is refused. */
  refused: string | null
}

interface OtherWay {
  takes: { type: DataType } | null
  reasons: readonly unknown[]
}

/** Of the ways to read the same bytes that make sense, the likeliest one: the same type in another order is a slip, another type a mistake. */
export const likeliestOf = <T extends OtherWay>(ways: readonly T[], type: DataType): T | null => {
  const isOfType = ({ takes }: T) => Number(takes?.type === type)
  return ways.toSorted((a, b) => isOfType(b) - isOfType(a) || b.reasons.length - a.reasons.length)[0] ?? null
}

/** A variant that gives something sensible. */
export const isSensible = ({ gives, against }: TriedVariant) => gives !== null && against.length === 0

export const triedText = ({ what, address, gives, refused, against }: TriedVariant): string => {
  const said = gives === null ? `refused: ${refused ?? ''}` : against.length > 0 ? `${gives}, hardly` : gives
  return `${variantText[what]}, ${address}: ${said}`
}
