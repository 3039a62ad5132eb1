import { z } from 'zod'
import type { DataType } from '#core/tags/types'
import type { WireValue } from './status'

/** A point on the far side, as its link browses it: an address, and the way into its value where it has parts. */
export interface Place {
  address: string
  member: string
}

export const place = z.object({
  address: z.string().max(4200, 'An address has at most 4,200 characters.').default(''),
  member: z.string().max(400, 'At most 400 characters.').default(''),
})

export interface BrowsedNode extends Place {
  name: string
  kind: 'object' | 'variable' | 'method' | 'member'
  /** Whether something may be inside. */
  opens: boolean
}

export interface Children {
  nodes: BrowsedNode[]
  /** Whether the far side had more than is shown here. */
  more: boolean
}

/** What is known of one point, for the list, the tray and the tag that may come of it. */
export interface PlaceDetails extends Place {
  /** Null: it has no value that can become a tag. */
  type: DataType | null
  /** The type by the name that the far side gives it. */
  typeName: string
  access: 'none' | 'read' | 'readwrite'
  unit: string
  range: { low: number; high: number } | null
  description: string
  value: WireValue
  text: string
  /** Whether there are members or elements to open. */
  hasParts: boolean
  quality: number
  /** Unix milliseconds; 0: none was given. */
  sourceTime: number
  /** The fastest that it can be sampled, ms; null: not told. */
  samplesEvery: number | null
  /** How many are inside; null: not counted. Capped, then `childrenMore`. */
  children: number | null
  childrenMore: boolean
}

/** A point found by search or as part of a branch, with the names that lead to it. */
export interface FoundPlace extends BrowsedNode {
  names: string[]
}

/** A place that the far side did not show, by the names that lead to it. */
export interface FailedPlace {
  names: string[]
  why: string
}

export type SearchPart = { found: FoundPlace[]; failed: FailedPlace[]; looked: number; done: boolean }
export type BranchPart = { points: { names: string[]; details: PlaceDetails }[]; failed: FailedPlace[]; looked: number; done: boolean }
