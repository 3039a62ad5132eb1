import type { CallBook } from '#core/calls/callBook'
import type { EquipmentOf } from '#core/equipment/model'
import type { ClassDraft } from '#core/equipment/settings'
import type { Fault } from '#core/faults/catalogue'
import type { TagValue, DataType } from '#core/tags/types'
import type { ValueName } from '#core/tags/valueNames'
import type { Alarm, AlarmEvent } from '#shared/alarms'
import type { CheckPart } from '#shared/diagnosis'
import type { ModelPlan } from '#shared/outlets/cloudPlatformStatus'
import type { Writer } from '#shared/writes'
import type { CheckStep, LinkStatus, OutletStatus } from '#shared/status'
import type { ArrivalDoor } from '../arrivals/arrivalDoor'
import type { Past } from '../history/past'
import type { JournalWriter } from '../journal/journal'
import type { LinkRunner } from '../links/linkRunner'
import type { Receiver } from '../links/receiving'
import type { Security } from '../trust/security'
import type { WriteOutcome } from '../links/driver'
import type { PointsOnRequest } from '../tags/pointsOnRequest'
import type { Handle, TagTable } from '../table/tagTable'
import type { Wire } from '../wire/wire'

/**
 * What a kind of outlet brings to the engine: it serves tags to consumers. What it can do, its capabilities in
 * `core/outlets` declare; what it tells beyond other outlets stands in the details of its status.
 *
 * @example
 * const driver: OutletDriver<Settings> = { open: (context) => new ServerSession(context) }
 */
export interface OutletDriver<S> {
  open(context: OutletContext<S>): OutletSession<S>
}

export interface OutletContext<S> {
  name: string
  settings: S
  table: TagTable
  journal: JournalWriter
  security: Security
  /** Sees its connections. */
  wire: Wire
  /** Notes what consumers ask, and what they get. */
  calls: CallBook
  /** The end of the session before this one, which may still hold the ports. */
  after?: Promise<void>
  write(handle: Handle, value: TagValue, by: Writer): Promise<WriteOutcome>
  /** How the links are now. */
  links(): NamedLink[]
  /** Walks the path of a link, for consumers that ask for it; null: there is no such link. Absent: nothing walks. */
  walkLink?(id: number, signal: AbortSignal): AsyncGenerator<CheckPart> | null
  /** Takes the messages that consumers send. */
  arrivals: Pick<ArrivalDoor, 'hand'>
  /** Where it may keep what has to outlast a restart; null: nowhere. */
  folder: string | null
  /** The name of the site. */
  site(): string
  /** A link by its number, where consumers are answered from what lies behind it. */
  link(id: number): LinkRunner | undefined
  /** What is an alarm, and who saw it. */
  alarms: AlarmBook
  /** What was recorded. */
  past: Past
  /** Classes and equipment, as they are now. */
  equipment(): { classes: Iterable<ClassDraft & { id: number }>; equipment: Iterable<EquipmentOf> }
  /** For consumers that name a point themselves. */
  points: Pick<PointsOnRequest, 'ask' | 'release' | 'isAlive'>
}

/** Alarms, as consumers see them and act on them. */
export interface AlarmBook {
  /** Of all, the worst first. */
  keys(): string[]
  get(key: string): Alarm | undefined
  /** What becomes of them; returns how to end it. */
  listen(listener: (event: AlarmEvent) => void): () => void
  /** The keys of those that are none, or were acknowledged before. */
  acknowledge(keys: readonly string[], who: string, comment: string): string[]
  /** Whether there is such an alarm. */
  comment(key: string, who: string, text: string): boolean
}

export interface NamedLink extends LinkStatus {
  name: string
}

/** A tag as a consumer sees it. `type` is what is passed on, after scaling. */
export interface OutletTag {
  handle: Handle
  id: number
  path: string
  type: DataType
  writable: boolean
  unit: string
  range: { low: number; high: number } | null
  names: readonly ValueName[]
  description: string
  /** The link by which its value comes, where it comes by one. */
  linkId?: number
}

export interface OutletSession<S> {
  update(settings: S): void
  setTags(changed: readonly OutletTag[], removed: readonly Handle[]): void
  status(): Omit<OutletStatus, 'id' | 'feeds'>
  /** Changes passed to consumers since the session was opened. */
  readonly changesTold: number
  /** Whether a tag is to be had here. */
  shows(path: string): boolean
  /** Ends a client; false: there is no such client. */
  disconnect?(clientId: string): boolean
  /** Where bridges send to; a fault where it cannot take anything now. */
  receiver?(): Receiver | Fault
  /** Comes to one of its entries as a consumer does; null: there is no such entry. */
  check?(entry: number): AsyncGenerator<CheckStep> | null
  /** Classes or equipment are others now. */
  modelChanged?(): void
  /** What is to be done so that the model at the far side is ours. @param readAgain it is asked for it first */
  plan?(readAgain: boolean): Promise<ModelPlan>
  /** Carries a plan out, which somebody saw; rejects with a Fault. */
  applyPlan?(seen: string, removing: boolean): Promise<ModelPlan>
  close(): Promise<void>
}
