import type { Fault } from '#core/faults/catalogue'
import type { Call } from '#core/http/call'
import type { PartExperience } from '#core/links/load'
import type { PointDefinition } from '#core/links/protocol'
import type { Qos } from '#core/mqtt/settings'
import type { NoteKind } from '#core/notes/kinds'
import type { OddValues } from '#core/tags/odd'
import type { Scaling } from '#core/tags/scaling'
import type { TagValue } from '#core/tags/types'
import type { AnyFound } from '#shared/links/found'
import type { Priorities } from '#shared/links/priorities'
import type { SensorOffer, SensorPortFound } from '#shared/links/sensorPorts'
import type { DeviceDescription } from '#core/iolink/description/description'
import type { CallOutcome } from '#shared/links/webCall'
import type { BranchPart, Children, Place, PlaceDetails, SearchPart } from '#shared/browse'
import type { CheckStep, FarSide, LinkStatus } from '#shared/status'
import type { ValueOrigin } from '#shared/values'
import type { Writer } from '#shared/writes'
import type { Gappy } from '../history/filling'
import type { Receiver } from './receiving'
import type { ArrivalDoor } from '../arrivals/arrivalDoor'
import type { JournalWriter } from '../journal/journal'
import type { Meters } from '#core/statistics/meters'
import type { Security } from '../trust/security'
import type { SampleSink } from '../table/intake'
import type { Handle } from '../table/tagTable'
import type { Wire } from '../wire/wire'

/**
 * What a protocol brings to the engine. A driver implements what its protocol can do; what that
 * is, `capabilities` in `core/<protocol>/protocol.ts` declares.
 */
export interface LinkDriver<S> {
  /** Starts a session. It connects, reconnects and polls by itself until closed. */
  open(context: LinkContext<S>): LinkSession<S>
  /** Walks from the name to the first reply. Ends early when aborted. */
  check(settings: S, signal: AbortSignal, around: CheckContext): AsyncGenerator<CheckStep>
  /** Asks the far side which ways in it offers. Rejects with a fault. */
  find?(settings: S, around: Pick<CheckContext, 'security' | 'wire'>): Promise<AnyFound>
  /** Makes one call of a web API, to look at what it says. */
  call?(settings: S, call: Call, around: Pick<CheckContext, 'security' | 'wire'>): Promise<CallOutcome>
  /** Fetches a document from a web API, or from beside it. Rejects with a fault. */
  fetchText?(settings: S, address: string, around: Pick<CheckContext, 'security' | 'wire'>): Promise<string>
  /** Reads one point once over a connection of its own. */
  tryRead(settings: S, point: PointDefinition, wire: Wire): Promise<ValueOrigin>
}

export interface TableUse {
  schema: string
  table: string
  how: 'insert' | 'upsert' | 'update' | 'call'
}

export interface CheckContext {
  /** Folders of this machine below which files may be written. */
  roots(): readonly string[]
  security: Security
  wire: Wire
  /** Tables that bridges write into over this link. */
  uses: readonly TableUse[]
  /** Names of our own links that are connected to the same place. */
  beside: readonly string[]
}

/** Looks around on the far side. Each may reject: with a `LookingFault`, or with whatever broke meanwhile. */
export interface LinkBrowser {
  children(place: Place): Promise<Children>
  details(places: readonly Place[]): Promise<PlaceDetails[]>
  search(text: string, signal: AbortSignal): AsyncGenerator<SearchPart>
  branch(place: Place, signal: AbortSignal): AsyncGenerator<BranchPart>
  /** What such an error means; null: it broke off. */
  meaning(error: Error): Fault | null
}

export interface LinkContext<S> {
  name: string
  settings: S
  table: SampleSink
  journal: JournalWriter
  security: Security
  /** Makes its connections. */
  wire: Wire
  /** Counts what is asked of the far side, and how it answers. */
  meters: Meters
  /** For links over which messages come: each is handed on once, and points claim theirs. Shut with the session. */
  arrivals: ArrivalDoor
  /** Folders of this machine below which files may be written. */
  roots(): readonly string[]
  /** What is known of devices of this kind, from descriptions of their makers. */
  described?(vendorId: number, deviceId: number): DeviceDescription | null
  /** What is recorded of points, for links whose far side knows what was missed. */
  gaps?: Gappy
  /** Takes what was found below the place that is to be taken over, whenever it was looked at. */
  takeOver?(found: FoundBranch): void
  /** Takes lasting addresses for points whose own might mean another one later. */
  keep?(found: ReadonlyMap<Handle, string>): void
  /** The end of the session before this one: a far side that takes one client only would refuse the next. */
  after?: Promise<void>
}

/** All points that were found below a place. */
export interface FoundBranch {
  points: BranchPart['points']
  /** Nothing was left out that could not be looked at. */
  isWhole: boolean
}

/** A tag as a link sees it. */
export interface Point extends PointDefinition {
  handle: Handle
  path: string
  interval: number | null
  /** The whole way to the tag’s unit. */
  scaling: Scaling | null
  /** What becomes of odd values, everything chosen. */
  odd: Required<OddValues>
  /** No tag: a consumer asked for it. */
  onRequest?: true
}

/** The same before its link has filled in what the tag leaves to it. */
export type OpenPoint = Omit<Point, 'odd'> & { odd: OddValues | null }

/** What somebody besides tags listens to. */
export interface Listened {
  filter: string
  qos: Qos
}

export interface PointFinding {
  handle: Handle
  kind: NoteKind
  text: string
}

export interface LinkSession<S> {
  /** Takes new settings. Only what they touch is reopened. */
  update(settings: S): void
  /** Points that are new or changed, and handles that are no more. */
  setPoints(changed: readonly Point[], removed: readonly Handle[]): void
  /** @param by is told to the far side where the protocol has a place for that */
  write(handle: Handle, value: TagValue, by: Writer): Promise<WriteOutcome>
  /** Who holds a value that several write by priorities. Rejects with a Fault where it does not go by any. */
  priorities?(handle: Handle): Promise<Priorities>
  /** Gives back what we hold of it. */
  release?(handle: Handle): Promise<WriteOutcome>
  /** What is plugged in where, for whoever decides about it. */
  sensorPorts?(): SensorPortFound[]
  /** What the device at a port offers to become tags. Rejects with a Fault. */
  sensorOffer?(port: number): Promise<SensorOffer>
  /** For looking around on the far side; a fault while that is not possible. */
  browser?(): LinkBrowser | Fault
  /** @param brief without other readings of the same words, which take their time. */
  origin(handle: Handle, brief?: boolean): ValueOrigin | null
  /** What the far side refuses, or has otherwise than points say. */
  findings(): PointFinding[]
  /** When it tries again by itself what failed, Unix ms; null: nothing waits for that. */
  nextTry?(): number | null
  /** Tries at once what waits because it failed. @param unit of this part of the far side only; null: all of it */
  tryNow?(unit: string | null): void
  /** What was seen of each part of the far side while it was asked. */
  experience?(): Record<string, PartExperience>
  /** Addresses that stay true whatever the far side renumbers; null for those that cannot be told now. */
  lasting?(addresses: readonly string[]): (string | null)[]
  /** Checks the link as it is over the connection at hand; null when there is none. */
  check?(signal: AbortSignal): AsyncGenerator<CheckStep> | null
  /** What the far side says of itself, over the connection at hand, where it can be asked without any harm. */
  farSide?(): Promise<FarSide>
  /** Reads a point over the connection at hand; null when there is none. */
  tryRead?(point: PointDefinition): Promise<ValueOrigin | null>
  /** Messages that bridges want, by filter, all of them: in place of what they wanted before. */
  listen?(filters: readonly Listened[]): void
  /** Where bridges send to; a fault while that is not possible. */
  receiver?(): Receiver | Fault
  status(): Omit<LinkStatus, 'id' | 'tags' | 'goodTags'>
  close(): Promise<void>
}

export type WriteOutcome = { ok: true } | { ok: false; fault: Fault; quality: number }
