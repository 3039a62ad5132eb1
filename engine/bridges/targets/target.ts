import type { Fault } from '#core/faults/catalogue'
import type { Shaped } from '#core/bridges/parcel'
import type { FieldType } from '#core/bridges/fit'
import type { LinkRunner } from '../../links/linkRunner'
import type { Verdict } from '../../links/receiving'
import type { OutletRunner } from '../../outlets/outletRunner'
import type { TagRegister } from '../../tags/tagRegister'
import type { TagWrites } from '../../tags/tagWrites'
import type { Laps } from '../laps'

/** What the destinations of bridges need of the engine. */
export interface Surroundings {
  link(id: number): LinkRunner | undefined
  outlet(id: number): OutletRunner | undefined
  tags: TagRegister
  write: TagWrites['write']
  laps: Laps
}

/** What a receiver notes for itself beside what is kept; it is gone once that is delivered. */
export interface Marks {
  get(): Promise<string | undefined>
  set(value: string): Promise<void>
}

export interface Handed {
  fields: readonly string[]
  records: readonly Shaped[]
  /** Tells an attempt from another; the same for each attempt with the same records. */
  key: string
}

/** One destination of a bridge: brings records into its form and sends them. */
export interface Target {
  /**
   * Says of each record what became of it. Rejects with a fault where the receiver is away: all of them are to be sent
   * again, and what is there already is known again where there is a key or a mark.
   */
  deliver(handed: Handed, marks: Marks): Promise<Verdict[]>
  /** What its fields can hold, in their order, as far as that can be told now; rejects with a fault where it cannot. */
  types(): Promise<FieldType[]>
  /** What records would be, in words or in the form in which they would leave. */
  preview(handed: Handed): Promise<string[]>
}

/** A fault on its way up. */
export const thrown = (why: Fault): Error => why as unknown as Error

/** A field that takes whatever comes. */
export const anything: FieldType = { name: 'anything', holds: 'anything', nullable: true }
