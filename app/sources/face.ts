import type { Component } from 'vue'
import type { DataType } from '#core/tags/types'
import type { Link } from '#shared/links/link'
import type { TagSource } from '#shared/sources/registry'
import type { Drawn } from '#shared/sources/source'
import type { Tag } from '#shared/tags'

/** What lists show of a tag's source. */
export interface SourceFacts {
  /** As short as a list needs it, and in full. */
  address: string
  full: string
  /** What it takes to read it, in a word or two. */
  words: string
  every: string
  /** Where its values come through. */
  through: { title: string; path: string } | null
}

/** What a source allows its tag. */
export interface SourceLimits {
  /** Differs whenever another default is meant. */
  key: string
  types: readonly DataType[]
  /** What it is by itself; null: that cannot be told. */
  defaultType: DataType | null
  writable: boolean
}

export type Links = readonly Link[]
export const linkIn = (links: Links, id: number) => links.find((link) => link.id === id)

/**
 * How a kind of source is shown and asked for.
 *
 * @example
 * memory: { fields: MemoryFields, beside: null, blank: () => ({ kind: 'memory', start: null }), … }
 */
export interface SourceFace<S> {
  /** Its fields in the sheet of a tag; the model is the whole draft, and a slot `type` holds the choice of the type. */
  fields: Component
  /** How often it brings a value, among the fields of the value; null: nothing to choose. */
  timing: Component | null
  /** What stands beside the sheet; null: nothing. */
  beside: Component | null
  /** What a new tag may by itself. */
  access: Tag['access']
  /** Who holds the value, as a sentence begins. */
  holder: string
  /** As a new tag has it; `linkId` where a link was chosen already. */
  blank(linkId: number): S
  limits(tag: Drawn<S>, links: Links): SourceLimits
  facts(tag: Drawn<S>, links: Links): SourceFacts
  /** The source of the tag after this one, as far as that can be told. */
  next(tag: Drawn<S>, links: Links): S
  /** Whether there is an order in which one comes after this. */
  hasNext(tag: Drawn<S>, links: Links): boolean
  /** What became of it when it was saved, where that is not what was typed. */
  kept?(sent: S, saved: S, links: Links): string
}

export type AnyFace = SourceFace<TagSource>
export type ShownTag = Pick<Tag, 'id' | 'path'> & Drawn<TagSource>
