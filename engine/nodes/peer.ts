import type { KeyObject } from 'node:crypto'
import type { WebSocket } from 'ws'
import { counted } from '#core/text/counted'
import { isSubject, type Subject } from '#db/subjects'
import { within } from '#pacing/within'
import { sealFor } from '#security/nodeSeal'
import {
  leftParcel,
  nodeEntries,
  nodeFound,
  nodeTold,
  shareTaken,
  type LeftParcel,
  type NodeEntries,
  type NodeFound,
  type NodeHello,
  type NodeSide,
  type NodeTold,
  type SiteSide,
} from '#shared/nodeRpc'
import { mapSecrets } from '#shared/secrets'
import { steadyNow, wallOf } from '#pacing/clock'
import type { Configuration } from '../configuration/site'
import { Line } from './line'
import { asShared, shareFor, type Has } from './share'

export interface PeerAround {
  known: Configuration
  /** A secret of this site in clear. */
  opened(sealed: string): string
  journal(entries: NodeEntries): Promise<void>
  writes(records: unknown[]): Promise<void>
  found(found: NodeFound): void
  followSet(setId: number, plan: unknown): void
  takeOver(linkId: number, folder: string, plan: unknown): void
  part(id: string, part: unknown): void
  left(parcel: LeftParcel): Promise<boolean>
  told(told: NodeTold): void
  frame(bytes: Uint8Array): void
  ended(peer: Peer, why: string): void
  problem(text: string): void
}

/** Things that go in one message. */
const thingsAtOnce = 500
const aliveMs = 3000

/** A node that came in: what it has of the configuration, and the way to tell it the rest. */
export class Peer {
  private line: Line<NodeSide, SiteSide>
  readonly has: Has
  private telling: Promise<void> = Promise.resolve()
  /** Up to which revision it was told, and whether more is on its way. */
  private toldTo = 0
  private pending = 0
  readonly version: string
  /** Of this run of this machine. */
  readonly run: string
  private clockAhead: number

  constructor(
    socket: WebSocket,
    readonly from: string,
    private node: { id: number; key: KeyObject },
    hello: NodeHello,
    private around: PeerAround,
  ) {
    this.version = hello.version
    this.run = hello.run
    this.clockAhead = hello.now - Date.now()
    this.has = hasOf(hello)
    this.toldTo = hello.revision
    this.line = new Line<NodeSide, SiteSide>({
      socket,
      functions: this.functions(),
      events: ['require', 'stored', 'resend', 'renew'],
      frame: (bytes) => around.frame(bytes),
      ended: (why) => around.ended(this, why),
    })
  }

  get heardAt() {
    return wallOf(this.line.heardAt)
  }

  get roundTripMs() {
    return this.line.roundTripMs
  }

  /** As it was told last; half of the way there and back is taken off. */
  get clockAheadMs() {
    return Math.round(this.clockAhead + (this.line.roundTripMs ?? 0) / 2)
  }

  /** Whether it gave a sign of life just now. */
  get isAlive() {
    return this.line.isOpen && steadyNow() - this.line.heardAt < aliveMs
  }

  get isBehind() {
    return this.pending > 0
  }

  end(why: string) {
    this.line.end(why)
  }

  /** Tells it what it should have by now; one change after the other. */
  bringUp(after: Promise<unknown> = Promise.resolve()): Promise<void> {
    this.pending++
    return (this.telling = this.telling
      .then(() => after)
      .then(() => this.tell())
      .catch((error: Error) => {
        if (!this.line.isOpen) return
        this.around.problem(`What it should have could not be told: ${error.message}`)
        this.line.end('it did not take its configuration')
      })
      .finally(() => this.pending--))
  }

  ask(name: string, args: readonly unknown[]): Promise<unknown> {
    return this.line.rpc.ask(
      name,
      args.map((arg) => this.withSecrets(arg)),
    )
  }

  resend(tagIds: number[]) {
    if (this.line.isOpen) void this.line.rpc.resend.asEvent(tagIds)
  }

  require(tagIds: number[]) {
    if (this.line.isOpen) void this.line.rpc.require.asEvent(tagIds)
  }

  stored(parcel: number) {
    if (this.line.isOpen) void this.line.rpc.stored.asEvent(parcel)
  }

  /** Whether it gives its word not to begin to lead for so long. */
  promise(ms: number): Promise<boolean> {
    return this.line.isOpen ? within(ms, this.line.rpc.promise(ms)) : Promise.resolve(false)
  }

  renew(certificate: string) {
    if (this.line.isOpen) void this.line.rpc.renew.asEvent(certificate)
  }

  private async tell() {
    const { known } = this.around
    const { revision, site } = known
    const { set, removed } = shareFor(this.node.id, known.things, this.has)
    if (set.length + removed.length === 0 && revision === this.toldTo) return
    const parts = set.flatMap(([subject, things]) => inParts(things).map((some) => ({ subject, some })))
    for (const { subject, some } of parts) {
      const things = some.map((thing) => asShared(subject, thing, (secret) => this.sealed(secret)))
      await this.line.rpc.take({ revision, site: null, set: { [subject]: things }, removed: {}, more: true })
    }
    const last = { revision, site, set: {}, removed: Object.fromEntries(removed), more: false }
    const taken = shareTaken.parse(await this.line.rpc.take(last))
    this.noteTaken(set, removed)
    this.toldTo = revision
    if (taken.unread.length > 0) this.around.problem(`${counted(taken.unread.length, 'thing')} could not be read there.`)
  }

  private noteTaken(set: readonly [Subject, { id: number; revision: number }[]][], removed: readonly [Subject, number[]][]) {
    for (const [subject, things] of set) {
      const known = this.has.get(subject) ?? new Map<number, number>()
      for (const { id, revision } of things) known.set(id, revision)
      this.has.set(subject, known)
    }
    for (const [subject, ids] of removed) for (const id of ids) this.has.get(subject)?.delete(id)
  }

  private sealed(secret: string): string {
    try {
      return sealFor(this.node.key, this.around.opened(secret))
    } catch {
      // sealed with the key of another installation: nobody can open it, there as little as here
      return secret
    }
  }

  private withSecrets<T>(value: T): T {
    return mapSecrets(value, (secret) => {
      if ('sealed' in secret) return { sealed: this.sealed(secret.sealed) }
      return 'plain' in secret ? { sealed: sealFor(this.node.key, secret.plain) } : secret
    })
  }

  /** What it may call: each argument is read by its contract. */
  private functions(): SiteSide {
    const { around } = this
    return {
      told: (given) => {
        const told = nodeTold.parse(given)
        this.clockAhead = told.now - Date.now()
        around.told(told)
      },
      journal: async (entries) => around.journal(nodeEntries.parse(entries)),
      writes: async (records) => around.writes(records),
      found: (found) => around.found(nodeFound.parse(found)),
      followSet: (setId, plan) => around.followSet(Number(setId), plan),
      takeOver: (linkId, folder, plan) => around.takeOver(Number(linkId), String(folder), plan),
      part: (id, part) => around.part(String(id), part),
      left: async (parcel) => around.left(leftParcel.parse(parcel)),
    }
  }
}

const inParts = <T>(all: readonly T[]): T[][] =>
  Array.from({ length: Math.ceil(all.length / thingsAtOnce) }, (_, i) => all.slice(i * thingsAtOnce, (i + 1) * thingsAtOnce))

const hasOf = ({ has }: NodeHello): Has =>
  new Map(Object.entries(has).flatMap(([subject, kept]) => (isSubject(subject) ? [[subject, new Map(kept)] as const] : [])))
