import { z } from 'zod'
import { idField, momentField } from '#core/contracts/fields'
import { severities } from '#core/journal/entry'
import { faultContract } from './faults'
import { nodeMachine } from './nodes'
import { recordSetStatus } from './records/status'
import { bridgeStatus } from './bridges/status'
import { linkStatus, notInForce, outletStatus } from './status'
import { writer } from './writes'

/** What a node and its site say to each other, over a websocket in TLS. Either side reads what the other says by these contracts. */

/** The form of it; another one is another version. */
export const nodeForm = 1

const short = z.string().max(300)
const hex64 = z.string().regex(/^[0-9a-f]{64}$/)

/** A machine that asks to become a node. */
export const joinAsked = z.object({
  form: z.int(),
  /** Which code it means. */
  call: z.string().regex(/^[0-9a-f]{32}$/),
  proof: hex64,
  /** PEM (SPKI). */
  key: z.string().max(2000),
  host: short,
  version: short,
  now: momentField,
  /** Whether it means to stand by for the whole site. */
  standsBy: z.boolean().default(false),
})
export type JoinAsked = z.output<typeof joinAsked>

const place = z.object({ host: short, port: z.int() })

/** What a machine that stands by is given: secrets, all of them. */
export const standbyPack = z.object({
  databaseUrl: z.string(),
  /** The secret from which the key for sealing is made. */
  seal: z.string(),
  /** PEM, and sealed by it. */
  authority: z.object({ certificate: z.string(), key: z.string() }),
})
export type StandbyPack = z.output<typeof standbyPack>

export const joinAnswer = z.discriminatedUnion('ok', [
  z.object({
    ok: z.literal(true),
    node: z.int(),
    name: short,
    site: short,
    proof: hex64,
    certificate: z.string(),
    authority: z.string(),
    /** For a machine that stands by: what it needs to lead, sealed for its key; null: it runs links only. */
    pack: z.string().max(60_000).nullable().default(null),
    doors: z.array(place).max(50).default([]),
  }),
  z.object({ ok: z.literal(false), fault: faultContract }),
])
export type JoinAnswer = z.output<typeof joinAnswer>

const kept = z.array(z.tuple([z.int(), z.int()]))

/** With what a node begins each connection. */
export const nodeHello = z.object({
  form: z.int(),
  version: short,
  /** Of this run of this machine: another machine with the same key has another one. */
  run: short,
  now: momentField,
  revision: z.int(),
  /** What it has of the configuration: ids and revisions, by subject. */
  has: z.record(z.string(), kept),
})
export type NodeHello = z.output<typeof nodeHello>

/** What a site answers, before either calls the other. */
export const nodeWelcome = z.discriminatedUnion('ok', [
  z.object({
    ...{ ok: z.literal(true), node: z.int(), name: short, site: short, now: momentField },
    /** Where machines that may lead the site are reached, beside the node itself. */
    doors: z.array(place).max(50).default([]),
  }),
  z.object({ ok: z.literal(false), fault: faultContract }),
])
export type NodeWelcome = z.output<typeof nodeWelcome>

/** What a node tells of itself every second. */
export const nodeTold = z.object({
  now: momentField,
  revision: z.int(),
  links: z.array(linkStatus),
  recordSets: z.array(recordSetStatus),
  outlets: z.array(outletStatus).default([]),
  bridges: z.array(bridgeStatus).default([]),
  notInForce: z.array(notInForce),
  notInForceCount: z.int(),
  changesPerSecond: z.number(),
  /** Samples of its record that wait to be taken. */
  waiting: z.int(),
  waitingSince: momentField.nullable(),
  machine: nodeMachine,
})
export type NodeTold = z.output<typeof nodeTold>

export const nodeEntries = z
  .array(
    z.object({
      at: momentField,
      lastAt: momentField,
      times: z.int(),
      severity: z.enum(severities),
      source: short,
      text: z.string().max(4000),
      fault: faultContract.nullable(),
    }),
  )
  .max(1000)
export type NodeEntries = z.output<typeof nodeEntries>

const lastingAddresses = z.array(z.object({ id: idField('A tag'), linkId: idField('A link'), passing: z.string(), lasting: z.string() }))
export const nodeFound = z.object({ addresses: lastingAddresses.max(100_000) })
export type NodeFound = z.output<typeof nodeFound>

/** What was written to the plant by way of a node. */
export const toldWrite = writer.extend({
  key: z.uuid(),
  at: z.coerce.date(),
  tagId: z.int().nullable(),
  path: z.string(),
  before: z.string().nullable(),
  value: z.string(),
  fault: faultContract.nullable(),
  ms: z.number(),
})

/** A part of a change: things as they are stored, and ids of those that are gone. */
export interface ShareParts {
  revision: number
  site: unknown
  set: Record<string, unknown[]>
  removed: Record<string, number[]>
  /** More of the same change follows: nothing of it is brought into force before. */
  more: boolean
}

/** What became of a change. */
export const shareTaken = z.object({ revision: z.int(), unread: z.array(z.object({ subject: z.string(), id: z.int() })) })
export type ShareTaken = z.output<typeof shareTaken>

/** What a machine kept for a destination of a bridge while it led, and did not deliver. */
export const leftParcel = z.object({
  bridge: z.int(),
  destination: z.int(),
  /** By which it was kept there. */
  key: z.string().max(200),
  /** As it lay on its disk. */
  parcel: z.string().max(30_000_000),
})
export type LeftParcel = z.output<typeof leftParcel>

/** What a site asks of a node. */
export interface NodeSide {
  take(part: ShareParts): Promise<ShareTaken | null>
  /** Tags of which every change is recorded, whatever the recordings say. */
  require(tagIds: number[]): void
  /** Of what was sent as parcel: it is where it belongs, or it cannot be. */
  stored(number: number): void
  /** Sends what these tags have by now. */
  resend(tagIds: number[]): void
  /** Another certificate for the same key, PEM. */
  renew(certificate: string): void
  /** Gives its word not to begin to lead the site for so long. Whether it does. */
  promise(ms: number): boolean
  /** Calls a function of the engine there. */
  ask(name: string, args: unknown[]): Promise<unknown>
}

/** What a node asks of its site. */
export interface SiteSide {
  told(told: NodeTold): void
  /** Resolves once they are taken. */
  journal(entries: NodeEntries): Promise<void>
  writes(records: unknown[]): Promise<void>
  found(found: NodeFound): void
  followSet(setId: number, plan: unknown): void
  takeOver(linkId: number, folder: string, plan: unknown): void
  part(id: string, part: unknown): void
  /** Whether it was taken, or is not wanted any more. */
  left(parcel: LeftParcel): Promise<boolean>
}
