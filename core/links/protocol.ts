import type { Column } from '../formats/column'
import type { DataType } from '../tags/types'
import type { Reference } from './reference'
import type { Form } from '../readings/forms'
import type { Experience, LinkLoad, LoadPoint } from './load'
import type { Spot } from '../notes/spot'
import type { Goal } from '../diagnosis/facts'
import type { FrameRule } from '../wire/frames'
import type { AddressVariant } from './variants'

/**
 * What the screens, the API and the checks need to know about a protocol's addresses, without a
 * connection. One implementation per protocol, listed in `registry.ts`.
 */
export interface Protocol {
  kind: string
  /** The name of the standard. */
  title: string
  /** One line under the title where a person chooses. */
  subtitle: string
  capabilities: Capabilities
  /** To open a connection asks nothing: that one stands does not tell yet that this protocol is spoken there. */
  isMuteUntilAsked?: boolean
  /** What a part of the far side is called that is asked by itself; absent: unit. */
  part?: 'device' | 'port'
  /** How its frames are told apart on the wire; null: they cannot be. */
  frames: FrameRule | null
  /** Where a link goes, as lists show it. */
  place(settings: unknown): string
  /** Which machine and port its connections go to first; null: none that can be named beforehand. */
  goal(settings: unknown): Goal | null
  /** How often tags are read or notified that choose no interval of their own, ms; null: when the far side sends something. */
  interval(settings: unknown): number | null
  /** Reads an address as a person types it. */
  describe(text: string, settings: unknown): AddressFacts
  /** Whether the address may mean another point at the far side's next start, so that a lasting one has to take its place. */
  isPassing(address: string): boolean
  /** Everything wrong with one point; empty when it can be polled. */
  problems(point: PointDefinition, settings: unknown): FieldProblem[]
  /** Where a point lies, so that notes can tell which points meet there; null where that cannot be told. */
  spot(point: PointDefinition, settings: unknown): Spot | null
  /** What reading points asks of the far side, before it is done. */
  load(points: readonly LoadPoint[], settings: unknown, experience: Experience): LinkLoad
  /** The same point one width further, or so many elements, for making a series of tags; null where addresses have no order. */
  next(point: PointDefinition, by?: number | null): string | null
  /** Other points that people mean who write this address; absent: nothing is known of that. */
  variants?(address: string): AddressVariant[]
  /** The same point of another part of the far side; null where there are none. */
  onUnit(address: string, unit: string): string | null
  /** An address as short as a list needs it: what tells one point from its neighbours. */
  shortAddress(address: string): string
  /** What a person looks up while typing an address. */
  reference(settings: unknown): Reference
  /** Where its points are registers of sixteen bits each: what a point is to be so that it reads them in a form; null where none does. */
  words: { takes(form: Form): { type: DataType; options: PointOptions } | null } | null
  /** The options in a word or two, as lists show them beside the type. */
  optionsText(point: PointDefinition, settings: unknown): string
  /** Options without those that only repeat the link's. */
  leanOptions(options: PointOptions, settings: unknown): PointOptions
  /** Why a kept secret must not go on being used after this change; null: it goes where it went before, as well protected. */
  whyNotKept(before: unknown, after: unknown): string | null
  /** The options as columns of a table of tags; they read and set a copy of the options. */
  columns: readonly Column<Record<string, unknown>>[]
  /** What a point of this type needs to start with. */
  optionsFor(type: DataType, options: PointOptions): PointOptions
}

export interface Capabilities {
  browse: boolean
  read: boolean
  watch: boolean
  write: boolean
  publish: boolean
  /** Whether messages come over it, which stand for themselves. */
  messages: boolean
  tap: boolean
  /** What bridges may send to it; absent: nothing. */
  receives?: 'topic' | 'table' | 'file' | 'call'
}

export interface PointDefinition {
  address: string
  type: DataType
  options: PointOptions
  access: 'read' | 'readwrite'
  /** Milliseconds; null or absent: as the link has it. */
  interval?: number | null
}

/**
 * What a point of this protocol needs besides its address and type. Absent means: as the link has
 * it. Its contract is in `shared/links/<protocol>`; only the protocol's own code looks inside.
 */
export type PointOptions = Readonly<Record<string, unknown>>

export interface FieldProblem {
  field: 'address' | 'type' | 'access' | 'interval' | `options.${string}`
  message: string
}

export type AddressFacts =
  | {
      ok: true
      /** The notation that is stored. */
      canonical: string
      /** The same point in every notation of the trade. */
      notations: { label: string; text: string }[]
      note: string | null
      types: readonly DataType[]
      defaultType: DataType
      writable: boolean
      /** The part of the far side that is polled by itself, where there are several. */
      unit: string | null
    }
  | { ok: false; problem: string }
