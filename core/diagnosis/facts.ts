import type { Fault } from '../faults/catalogue'
import type { Change } from './changes'
import type { PointFacts } from './point'
import type { Service } from './service'
import type { Break } from './steadiness'

/** Where a path leads, as far as it is a matter of the network. */
export interface Goal {
  /** What is spoken there, by the name of its standard. */
  speaks: string
  /** As it was entered. */
  host: string
  port: number
  carries: 'tcp' | 'udp'
  /** The port that the standard registered for it. */
  usualPort: number | null
  /** By TLS, from the first byte or soon. */
  isEncrypted?: boolean
  /** Where there are no connections: a question that changes nothing, hexadecimal, to find out whether anybody listens. */
  question?: string
}

/** How the way begins on this machine. */
export type RouteFound =
  | { outcome: 'this machine' }
  | { outcome: 'same network'; by: string; from: string }
  | { outcome: 'through a router'; by: string; from: string; router: string }
  | { outcome: 'none' }

/** What this machine's own packet filter does with the connection. */
export type FilterFound =
  | { outcome: 'lets through' }
  | { outcome: 'stops'; rule: string; place: string; how: 'drop' | 'reject' }
  | { outcome: 'depends'; rule: string; place: string }

/**
 * What was found out about a path that stopped, beside the steps themselves. A member that is absent was not measured: no
 * rule takes that for anything.
 */
export interface Facts {
  /** Which step failed, and with what. */
  step: string
  fault: Fault
  /** A part of the far side failed (a unit behind a gateway), while all before it is sound. */
  isPart?: boolean
  /** How long the step took, ms; null: it has no time of its own. */
  ms: number | null
  goal?: Goal
  /** What the name stands for now. */
  address?: string
  /** All that the name service knows for it. */
  addresses?: readonly string[]
  route?: RouteFound
  /** Whether the next machine on the way (the host itself, or the router) answers for its network card (RFC 826, RFC 4861). */
  neighbour?: { place: string; outcome: 'answers' | 'silent' }
  /** Whether it answers an echo request (RFC 792). */
  echo?: { outcome: 'answers'; ms: number } | { outcome: 'silent' } | { outcome: 'stopped'; by: string; words: string }
  filter?: FilterFound
  /** Another port of the same host that was tried: the usual one of the protocol. */
  other?: { port: number; outcome: 'open' | 'refused' | 'silent' }
  /** What became of a question to a port without connections: its machine, or one between, may say that it got nowhere (RFC 792). */
  datagram?: { outcome: 'refused' | 'answers' | 'silent' } | { outcome: 'stopped'; words: string }
  /** What the far side said, on the connection that failed or on a fresh one; null: nothing that is known here. */
  greeting?: { service: Service; bytes: string } | null
  /** The largest packet that passes whole, and the largest that this machine's own network takes, bytes. */
  packet?: { passes: number; own: number }
  /** Our own links that hold a connection to the same place. */
  beside?: readonly string[]
  /** When it last worked; null: never, as far as is known. */
  lastGood?: number | null
  /** The last times in which it worked, and how each ended. */
  breaks?: readonly Break[]
  /** How many of so many echo requests, one after the other, were answered. */
  echoes?: { sent: number; answered: number }
  now: number
  /** The point by itself, where the path is that of a tag. */
  point?: PointFacts
  /** What is otherwise than when it last worked. */
  changes?: readonly Change[]
}
