import type { Fault } from '#core/faults/catalogue'
import type { PointOptions } from '#core/links/protocol'
import type { ShownCertificate } from './certificates'
import type { OpcuaServerDetails } from './outlets/opcuaServerStatus'
import { isArrayValue, type DataType, type ScalarValue, type TagValue } from '#core/tags/types'

/**
 * What the engine tells about itself. Plain data: it crosses two sockets on its way to a page.
 * `Flow` is the state that every pipe glyph shows.
 */
export type Flow = 'flowing' | 'late' | 'broken' | 'off'

export interface UnitStatus {
  unit: string
  flow: Flow
  sentence: string
  answerMs: number | null
  requests: number
  failures: number
  lateReplies: number
  foreignReplies: number
  /** One entry per interval: what a round of it takes. */
  rounds: { interval: number; points: number; requests: number; predictedMs: number | null; measuredMs: number | null }[]
  leftOutUntil: number | null
  lastFault: Fault | null
  /** What the far side refuses: the first of it, and how much there is. */
  refused: RefusedPoint[]
  refusedCount: number
}

/** A tag whose address the far side does not give. */
export interface RefusedPoint {
  path: string
  address: string
  why: string
}

export interface LinkStatus {
  id: number
  flow: Flow
  /** What is happening, for a person. */
  sentence: string
  /** The next action, where there is one. */
  fault: Fault | null
  tags: number
  goodTags: number
  answerMs: number | null
  /** Since the link was switched on. */
  requests: number
  failures: number
  /** Parts of the far side that are asked by themselves, where its protocol has them. */
  units?: UnitStatus[]
  /** What the far side refuses, where it is not told by unit. */
  refused?: RefusedPoint[]
  connections: number
  /** The certificate that waits for a decision. */
  certificate?: ShownCertificate
}

export interface ClientStatus {
  id: string
  name: string
  from: string
  identity: string
  security: string
  since: number
  items: number
  /** Notifications are told apart: they come all the time. */
  lastAsked: string
  lastAskedAt: number
  /** What came of it. */
  lastGot: string
  /** The last thing it did not get; null: it got everything so far. */
  refused: { text: string; at: number } | null
}

/** What is told of every outlet. */
export interface OutletStatus {
  id: number
  flow: Flow
  sentence: string
  fault: Fault | null
  /** Where consumers find it, ready to give out. */
  addresses: string[]
  /** Who is connected, where consumers connect. */
  clients: ClientStatus[]
  /** Values that consumers follow. */
  items: number
  changesPerSecond: number
  /** What its kind tells besides; null while nothing runs. */
  details: OutletDetails | null
}

/** The details of every kind of outlet. A new one adds its line here. */
export type OutletDetails = OpcuaServerDetails

/** One address of the engine's machine. */
export interface InterfaceStatus {
  name: string
  address: string
  /** Address range of its network, as in 10.8.0.0/24. */
  network: string
}

/** Something that is not as it is configured. */
export interface NotInForce {
  /** The kind of thing, as the configuration calls it. */
  subject: string
  id: number
  name: string
  /** The revision that is meant to hold. */
  revision: number
  /** The revision that holds instead; null: nothing of it does. */
  inForce: number | null
  fault: Fault
  /** Unix milliseconds of the last try. */
  at: number
}

/** What became of a saved revision. */
export interface Effect {
  revision: number
  /** `not yet`: the engine has not come to it. `unknown`: no engine is there to ask. */
  state: 'in force' | 'in part' | 'not yet' | 'unknown'
  node: string | null
  /** What of it is not in force, and why. */
  things: NotInForce[]
}

export interface EngineStatus {
  node: string
  /** The engine's clock, so that ages are right in a browser whose clock is not. */
  now: number
  startedAt: number
  configurationRevision: number
  configurationFrom: 'database' | 'last known'
  databaseConnected: boolean
  /** What is not as configured: the first of them, and how many there are. */
  notInForce: NotInForce[]
  notInForceCount: number
  links: LinkStatus[]
  outlets: OutletStatus[]
  interfaces: InterfaceStatus[]
  tags: number
  goodTags: number
  changesInPerSecond: number
  changesOutPerSecond: number
}

type WireScalar = boolean | number | string
export type WireValue = WireScalar | WireScalar[] | null

/** Values on their way to a page. `bigint` travels as text; the tag's type tells. */
export interface LiveValue {
  id: number
  value: WireValue
  type: DataType
  quality: number
  /** When the source had this value, and when it was last confirmed; Unix milliseconds. */
  sourceTime: number
  seenAt: number
}

export const toWire = (value: TagValue | undefined): WireValue => {
  if (value === undefined) return null
  return isArrayValue(value) ? value.map(scalarToWire) : scalarToWire(value)
}

const scalarToWire = (value: ScalarValue): WireScalar => {
  if (typeof value === 'bigint') return value.toString()
  if (typeof value === 'number' && !Number.isFinite(value)) return String(value)
  return value
}

/** One step on the way from the bytes to the consumers. */
export interface ValueStage {
  title: string
  text: string
  detail: string
  /** When, Unix milliseconds; shown in local time after the detail. */
  at?: number
}

export interface ReadingRow {
  label: string
  type: DataType
  /** What a tag's options would be to read it so. */
  options: PointOptions
  text: string
  plausible: boolean
  inUse: boolean
}

/** How a value is made: the bytes, each stage, other readings of the same bytes, and who gets it. */
export interface ValueOrigin {
  stages: ValueStage[]
  readings: ReadingRow[]
  /** Where the words of the readings come from. */
  wordsFrom: string
  goesTo: string[]
  fault: Fault | null
  /** What the far side says of the point itself, where it does. */
  told?: { address: string; type: DataType; writable: boolean; unit: string; description: string }
}

export interface CheckStep {
  step: string
  title: string
  flow: Flow | 'waiting'
  evidence: string
  ms: number | null
  fault: Fault | null
  /** The certificate that a person should decide about, or may want to read. */
  certificate?: ShownCertificate
}

export type WriteResult = { ok: true; readBack: LiveValue['value'] } | { ok: false; fault: Fault }
