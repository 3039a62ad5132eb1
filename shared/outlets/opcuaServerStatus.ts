import type { Fault } from '#core/faults/catalogue'
import type { ShownCertificate } from '../certificates'
import type { Flow } from '../status'

export interface DoorStatus {
  /** What clients dial. */
  address: string
  interface: string
  port: number
  flow: Flow
  fault: Fault | null
  /** Connections from other machines since the door opened: how many machines, and the last. */
  arrivals: { machines: number; last: { from: string; at: number } | null }
}

/** Somebody who came with a certificate that is not trusted here. */
export interface Knock extends ShownCertificate {
  from: string
  tries: number
  firstAt: number
  lastAt: number
}

/** A point that a client named itself, or one that it could not have. */
interface Requested {
  text: string
  client: string
  at: number
}
export interface RequestedPoint extends Requested {
  quality: number
}
export interface RefusedRequest extends Requested {
  problem: string
  times: number
  lastAt: number
}

/** How an OPC UA server is, beyond what every outlet tells. */
export interface OpcuaServerDetails {
  kind: 'opcua-server'
  doors: DoorStatus[]
  /** Clients whose certificate waits for a decision. */
  waiting: Knock[]
  onRequest: { points: RequestedPoint[]; refused: RefusedRequest[] }
}
