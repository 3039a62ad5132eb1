import type { z } from 'zod'
import type { LinkKind } from '#core/links/registry'
import type { FieldMessage } from '../faults'
import type { DataType } from '#core/tags/types'
import type { TagDraft } from '../tags'
import type { SourceColumn } from './columns'

interface OfLink {
  kind: LinkKind
  settings: unknown
}
/** The links that are there, by their ids. */
export type LinkLookup = (id: number) => OfLink | undefined

export type Drawn<S> = TagDraft & { source: S }

/**
 * A kind of source that tags have their values from: what it needs, and what only shows in the light of other things.
 *
 * @example
 * const constant: SourceRules<z.output<typeof contract>> = {
 *   contract, title: 'Constant', isScaled: false, isDamped: false, columns: [valueColumn], blank: () => ({ kind: 'constant', value: 0 }), usualType: () => null,
 *   problems: () => [], settled: (tag) => tag, isSame: (a, b) => a.value === b.value,
 * }
 */
export interface SourceRules<S> {
  contract: z.ZodType<S>
  /** As a person chooses it. */
  title: string
  subtitle: string
  /** Whether something else makes its tags, and nobody makes them by hand. */
  isMade?: true
  /** Whether what it brings may be scaled. */
  isScaled: boolean
  /** Whether changes of it may be held back. */
  isDamped: boolean
  /** Its fields as columns of a table of tags; they read and set a copy of the source. */
  columns: readonly SourceColumn<S>[]
  /** As a new tag has it, before any cell is read. */
  blank(): S
  /** What type a tag of this source has by default; null: that cannot be told. */
  usualType(source: S, links: LinkLookup): DataType | null
  /** What its contract alone does not tell. */
  problems(tag: Drawn<S>, links: LinkLookup): FieldMessage[]
  /** The draft as it is stored: in canonical notation, without strangers. Asked only where nothing is wrong. */
  settled(tag: Drawn<S>, links: LinkLookup): Drawn<S>
  /** The tags that it reads, by their paths, where it reads any. */
  paths?: { of(source: S): string[]; renamed(source: S, nowCalled: (path: string) => string): S }
  /** Whether a value that came from one says the same about the other. */
  isSame(a: S, b: S): boolean
}
