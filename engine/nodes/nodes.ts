import type { KeyObject, X509Certificate } from 'node:crypto'
import type { Kysely } from 'kysely'
import type { WebSocket } from 'ws'
import { fault, type Fault } from '#core/faults/catalogue'
import { isFrom } from '#shared/sources/registry'
import type { ThingOf } from '#db/subjects'
import type { Database } from '#db/tables'
import { keyFingerprint, type SiteAuthority } from '#security/siteAuthority'
import type { Seal } from '#security/seal'
import { nodeForm, nodeHello, type NodeEntries, type NodeHello, type NodeWelcome, type StandbyPack } from '#shared/nodeRpc'
import { followPlanContract, takingPlanContract } from '#shared/nodePlans'
import type { BridgeStatus } from '#shared/bridges/status'
import type { NotInForce, OutletStatus } from '#shared/status'
import type { LeadStatus, NodeDoor as DoorPlace, NodeStatus } from '#shared/nodes'
import type { FollowPlan } from '#core/records/follow'
import type { TakingPlan } from '#core/opcua/takingOver'
import type { TakenNode } from '../configuration/takenOver'
import type { LastingAddress } from '../configuration/lastingAddresses'
import type { Applier } from '../configuration/site'
import type { Engine } from '../engine'
import type { Place } from '../farNode/identity'
import type { Journal, JournalWriter } from '../journal/journal'
import type { LinkSession } from '../links/driver'
import { FarLink } from './farLink'
import { firstWord } from './firstWord'
import { JoiningDesk, mostClockApartMs } from './joiningDesk'
import { NodeDoor, type Guest } from './nodeDoor'
import { NodeRunner } from './nodeRunner'
import { ParcelStore } from './parcelStore'
import { Peer } from './peer'
import { shareFor, type Has } from './share'

interface Around {
  db: Kysely<Database>
  databaseUrl: string
  authority: SiteAuthority
  seal: Seal
  journal: JournalWriter & Pick<Journal, 'take' | 'takeWrites'>
  keepAddresses(found: LastingAddress[]): void
  followSet(set: ThingOf['recordSet'], plan: FollowPlan): void
  takeOver(link: ThingOf['link'], folder: string, plan: TakingPlan<TakenNode>): void
  /** Where the site has several machines, what this one is among them; absent: it has one. */
  several?: Several
}

export interface Several {
  /** Which node this machine is; null: it is the only one so far. */
  own(): number | null
  lead(): LeadStatus | null
  /** Makes this machine one of several. Throws a fault where that cannot be. */
  become(): Promise<void>
  pack(): StandbyPack
  /** Asks another machine to lead. */
  handOver(node: number): Promise<void>
  /** How this machine and its site are called by now, and where the others are reached once one of them leads. */
  knows(name: string, site: string, places: readonly Place[]): void
  /** The web side of a machine that stands by came in. */
  serve(socket: WebSocket): void
}

type OpenContext = ConstructorParameters<typeof FarLink>[0]

const halfLifeMs = 365 * 86_400_000
const certificateLookMs = 86_400_000

/** All nodes of this site: where they come in, what each should have, and what comes from them. */
export class Nodes implements Applier<ThingOf['node']> {
  readonly desk: JoiningDesk
  private door: NodeDoor
  private store: ParcelStore
  private runners = new Map<number, NodeRunner>()
  /** What nodes had when they were here last, and how much of that is another thing by now. */
  private left = new Map<number, { has: Has; things: number }>()
  private ending = new Map<number, Promise<unknown>>()
  private required: ReadonlySet<string> = new Set()
  private engine: Engine | null = null
  private parts = new Map<string, (part: unknown) => void>()

  constructor(private around: Around) {
    const { db, authority, journal } = around
    const site = () => ({ name: this.known.site.name, nodeDoor: this.ownDoor ?? this.known.site.nodeDoor })
    const { several } = around
    this.desk = new JoiningDesk({
      ...{ db, authority, journal, site, node: (id) => this.known.things.node.get(id), doorsBut: (id) => this.doorsBut(id) },
      several: () => several?.become() ?? Promise.reject(fault('node.alone', {}) as unknown as Error),
      pack: () => several!.pack(),
    })
    this.door = new NodeDoor({
      authority,
      joins: (asked, from) => this.desk.join(asked, from),
      came: (socket, guest) => void this.came(socket, guest).catch(() => socket.terminate()),
      failed: (why) => journal.trouble('Nodes', why.what, why),
    })
    this.store = new ParcelStore({
      databaseUrl: around.databaseUrl,
      isIts: (node, tag) => this.nodeOfTag(tag) === node,
      problem: (node, text) => journal.trouble(this.runners.get(node)?.name ?? 'Nodes', text),
    })
  }

  /** For whom it works. */
  serve(engine: Engine) {
    this.engine = engine
  }

  get doorFault(): Fault | null {
    return this.door.fault
  }

  get doorPort(): number | null {
    return this.door.port
  }

  set(all: readonly ThingOf['node'][]) {
    for (const node of all) {
      const known = this.runners.get(node.id)
      if (known) known.update(node)
      else this.runners.set(node.id, new NodeRunner(node))
    }
  }

  removed(ids: readonly number[]) {
    for (const id of ids) {
      this.runners.get(id)?.remove()
      this.runners.delete(id)
      this.left.delete(id)
      this.desk.withdraw(id)
    }
  }

  get(id: number): NodeRunner | undefined {
    return this.runners.get(id)
  }

  all(): Iterable<[number, NodeRunner]> {
    return this.runners
  }

  gone(id: number): Fault {
    return fault('entry.gone', { thing: 'node', id })
  }

  /** What takes the place of a session for a link that runs elsewhere. Throws where there is no such node. */
  open(link: ThingOf['link'], context: OpenContext): LinkSession<unknown> {
    const node = this.runners.get(link.nodeId!)
    if (!node) throw this.gone(link.nodeId!) as unknown as Error
    const { tags } = this.engine!
    const revision = () => this.known.things.link.get(link.id)?.revision ?? link.revision
    return new FarLink(context, { linkId: link.id, node, revision, tagOf: (handle) => tags.byHandle(handle) })
  }

  /** On which node something of a link runs; null: here. */
  nodeOfLink(linkId: number | null | undefined): number | null {
    return (linkId && this.known.things.link.get(linkId)?.nodeId) || null
  }

  /** On which node an outlet or a bridge runs; null: here. */
  nodeOf(subject: 'outlet' | 'bridge', id: number | null | undefined): number | null {
    return (id && this.known.things[subject].get(id)?.nodeId) || null
  }

  nodeOfTag(tagId: number): number | null {
    const tag = this.known.things.tag.get(tagId)
    if (!tag) return null
    if (isFrom('point', tag)) return this.nodeOfLink(tag.source.linkId)
    return isFrom('record', tag) ? this.nodeOfSet(tag.source.recordSetId) : null
  }

  nodeOfSet(setId: number): number | null {
    return this.nodeOfLink(this.known.things.recordSet.get(setId)?.linkId)
  }

  /** A node is told of a change only once something of it ended elsewhere: never two talk to one device. */
  wait(id: number, ended: Promise<void>) {
    this.ending.set(id, Promise.all([this.ending.get(id), ended]))
  }

  /** After each change of the configuration. */
  configured(door: DoorPlace | null) {
    const own = this.ownId === null ? undefined : this.known.things.node.get(this.ownId)
    void this.door.set(this.ownDoor ?? door)
    if (own) this.around.several?.knows(own.name, this.known.site.name, this.doorsBut(own.id))
    const ending = this.ending
    this.ending = new Map()
    for (const [id, runner] of this.runners) {
      if (runner.connected) {
        void runner.connected.bringUp(ending.get(id))
        if (this.required.size > 0) runner.connected.require(this.requiredOf(id))
      } else this.countLeft(id)
    }
  }

  /** Tags of which every change is recorded, wherever they run. */
  require(paths: ReadonlySet<string>) {
    this.required = paths
    for (const [id, { connected }] of this.runners) connected?.require(this.requiredOf(id))
  }

  status(): NodeStatus[] {
    const { revision } = this.known
    return [...this.runners].map(([id, runner]) => {
      if (id === this.ownId) return runner.statusHere(revision)
      const isBehind = runner.connected ? runner.connected.isBehind : (this.left.get(id)?.things ?? 0) > 0
      return runner.status(revision, isBehind)
    })
  }

  /** Of outlets that run on nodes. */
  outlets(): OutletStatus[] {
    return this.placedOn('outlet', (runner, id) => runner.outletStatus(id))
  }

  bridges(): BridgeStatus[] {
    return this.placedOn('bridge', (runner, id) => runner.bridgeStatus(id))
  }

  private placedOn<T>(subject: 'outlet' | 'bridge', look: (runner: NodeRunner, id: number) => T): T[] {
    return [...this.known.things[subject].values()].flatMap(({ id, nodeId }) => {
      const runner = nodeId === null ? undefined : this.runners.get(nodeId)
      return runner ? look(runner, id) : []
    })
  }

  /** Which machine leads; null: there is one. */
  lead(): LeadStatus | null {
    return this.around.several?.lead() ?? null
  }

  /** Lets another machine lead the site. Null: it was asked to. */
  async handOver(id: number, by: string): Promise<Fault | null> {
    const { several, journal } = this.around
    const runner = this.runners.get(id)
    if (!several || !this.lead() || !runner?.isConnected || !runner.standsBy)
      return fault('node.stands-not-by', { name: runner?.name ?? `node ${id}` })
    journal.note(runner.name, `${by} has it lead the site.`)
    await several.handOver(id)
    return null
  }

  /** Asks all other machines that may lead not to for so long; whether all gave their word. */
  async promised(ms: number): Promise<boolean> {
    const others = [...this.runners].filter(([id, { standsBy, key }]) => id !== this.ownId && standsBy && key !== null)
    const words = await Promise.all(others.map(async ([, { connected }]) => (await connected?.promise(ms).catch(() => false)) === true))
    return words.every(Boolean)
  }

  /** Those that are connected and stand by. */
  standing(): number[] {
    return [...this.runners].flatMap(([id, runner]) => (runner.standsBy && runner.isConnected ? [id] : []))
  }

  /** What they could not bring into force. */
  notInForce(): NotInForce[] {
    return [...this.runners.values()].flatMap((runner) => runner.notInForce().map((thing) => ({ ...thing, node: runner.name })))
  }

  get notInForceCount() {
    return [...this.runners.values()].reduce((sum, runner) => sum + runner.notInForceCount, 0)
  }

  /** Which nodes do not have what a revision made of their things yet. */
  waitingFor(revision: number): string[] {
    return [...this.runners].flatMap(([id, runner]) => {
      const isBehind = runner.connected ? runner.connected.isBehind : (this.left.get(id)?.things ?? 0) > 0
      return isBehind && revision <= this.known.revision ? [runner.name] : []
    })
  }

  /** Long work that runs on a node: its parts go where they are wanted. */
  async follow<T>(id: string, onPart: (part: unknown) => void, work: () => Promise<T>): Promise<T> {
    this.parts.set(id, onPart)
    try {
      return await work()
    } finally {
      this.parts.delete(id)
    }
  }

  async close() {
    this.desk.close()
    this.door.close()
    for (const runner of this.runners.values()) runner.remove('the engine of the site ends')
    await this.store.close()
  }

  private requiredOf(node: number): number[] {
    return [...this.required].flatMap((path) => {
      const tag = this.engine?.tags.byPath(path)
      return tag && this.nodeOfTag(tag.id) === node ? [tag.id] : []
    })
  }

  private get known() {
    return this.engine!.wanted
  }

  private get ownId(): number | null {
    return this.around.several?.own() ?? null
  }

  /** Where this machine is reached, where it is one of several. */
  private get ownDoor(): DoorPlace | null {
    return (this.ownId !== null && this.known.things.node.get(this.ownId)?.door) || null
  }

  /** Where machines that may lead are reached, but for this one. */
  private doorsBut(node: number): Place[] {
    const all = [...this.known.things.node.values()].filter(({ id, standsBy }) => standsBy && id !== node)
    return all.flatMap(({ door }) => (door ? [{ host: door.host, port: door.outsidePort ?? door.port }] : []))
  }

  private countLeft(id: number) {
    const left = this.left.get(id)
    if (!left) return
    const { set, removed } = shareFor(id, this.known.things, left.has)
    left.things = [...set, ...removed].reduce((sum, [, things]) => sum + things.length, 0)
  }

  private async came(socket: WebSocket, guest: Guest) {
    const { key, certificate, from } = guest
    const fingerprint = keyFingerprint(key.export({ format: 'pem', type: 'spki' }).toString())
    const found = [...this.runners].find(([, runner]) => runner.key === fingerprint)
    if (guest.as === 'web') return found?.[1].standsBy ? this.around.several?.serve(socket) : socket.close(1008, 'it does not stand by')
    const hello = nodeHello.safeParse(await firstWord(socket))
    const why = found
      ? hello.success
        ? this.whyNot(found[1], hello.data)
        : fault('node.words', { problem: 'its greeting has another form' })
      : fault('node.unknown', {})
    if (!found || why || !hello.success) return this.refuse(socket, found?.[1], from, why ?? fault('node.unknown', {}))
    this.welcome(socket, found, { key, certificate, from, hello: hello.data })
  }

  private whyNot(runner: NodeRunner, hello: NodeHello): Fault | null {
    if (hello.form !== nodeForm) return fault('node.form', { theirs: hello.form, ours: nodeForm })
    const aheadMs = hello.now - Date.now()
    if (Math.abs(aheadMs) > mostClockApartMs) return fault('node.clock', { name: runner.name, aheadMs })
    const other = runner.connected
    return other && other.run !== hello.run && other.isAlive ? fault('node.twice', { name: runner.name, other: other.from }) : null
  }

  private refuse(socket: WebSocket, runner: NodeRunner | undefined, from: string, why: Fault) {
    const before = runner?.refusedWith
    if (why.code !== 'node.twice') runner?.refused(from, why)
    if (before !== why.code) this.around.journal.caution(runner?.name ?? 'Nodes', `${why.what} It came from ${from}.`, why)
    socket.send(JSON.stringify({ ok: false, fault: why } satisfies NodeWelcome), () => socket.close(1000, 'refused'))
    setTimeout(() => socket.terminate(), 2000).unref()
  }

  private welcome(
    socket: WebSocket,
    [id, runner]: [number, NodeRunner],
    { key, certificate, from, hello }: { key: KeyObject; certificate: X509Certificate; from: string; hello: NodeHello },
  ) {
    const { seal, journal } = this.around
    const peer: Peer = new Peer(socket, from, { id, key }, hello, {
      known: this.known,
      opened: (sealed) => seal.open(sealed),
      journal: (entries) => this.tell(runner.name, entries),
      writes: (records) => journal.takeWrites(records),
      found: ({ addresses }) => this.around.keepAddresses(addresses.filter(({ linkId }) => this.nodeOfLink(linkId) === id)),
      followSet: (setId, plan) => this.followSet(id, setId, plan),
      takeOver: (linkId, folder, plan) => this.takeOver(id, linkId, folder, plan),
      part: (work, part) => this.parts.get(work)?.(part),
      left: (parcel) => (runner.standsBy ? this.engine!.bridges.takeLeft(id, parcel) : Promise.resolve(false)),
      told: (told) => runner.heard(told),
      frame: (bytes) => runner.frame(bytes, (number, parcel) => this.store.add(id, number, parcel, (done) => peer.stored(done))),
      ended: (_, why) => this.goneFrom(id, runner, peer, why),
      problem: (text) => journal.trouble(runner.name, text),
    })
    runner.connect(peer)
    this.left.delete(id)
    const { name: site } = this.known.site
    const welcome = { ok: true, node: id, name: runner.name, site, now: Date.now(), doors: this.doorsBut(id) } satisfies NodeWelcome
    socket.send(JSON.stringify(welcome))
    journal.note(runner.name, `Came in from ${from}, version ${hello.version}, with revision ${hello.revision}.`)
    peer.require(this.requiredOf(id))
    void peer.bringUp()
    this.keepCertified(peer, id, key, Date.parse(certificate.validTo))
  }

  /** At half of its life it gets another one, also where it stays connected for years. */
  private keepCertified(peer: Peer, id: number, key: KeyObject, validTo: number) {
    let until = validTo
    const look = () => {
      if (this.runners.get(id)?.connected !== peer) return clearInterval(timer)
      if (until - Date.now() >= halfLifeMs) return
      until = Date.now() + 2 * halfLifeMs
      void this.renew(peer, id, key)
    }
    const timer = setInterval(look, certificateLookMs)
    timer.unref()
    look()
  }

  private async renew(peer: Peer, id: number, key: KeyObject) {
    peer.renew(await this.around.authority.issueTo(`node ${id}`, key.export({ format: 'pem', type: 'spki' }).toString()))
  }

  private goneFrom(id: number, runner: NodeRunner, peer: Peer, why: string) {
    if (runner.connected !== peer) return
    runner.disconnect(peer)
    this.store.forget(id)
    this.left.set(id, { has: peer.has, things: 0 })
    if (this.runners.get(id) === runner) this.around.journal.caution(runner.name, `Not connected any more: ${why}.`)
  }

  /** Events of a node stand in the journal of its site, as they happened. */
  private async tell(name: string, entries: NodeEntries) {
    for (const entry of entries) this.around.journal.take({ ...entry, source: entry.source === 'Engine' ? name : entry.source })
  }

  private followSet(node: number, setId: number, given: unknown) {
    const set = this.known.things.recordSet.get(setId)
    if (set && this.nodeOfSet(setId) === node) this.around.followSet(set, followPlanContract.parse(given))
  }

  private takeOver(node: number, linkId: number, folder: string, given: unknown) {
    const link = this.known.things.link.get(linkId)
    if (link?.nodeId === node) this.around.takeOver(link, folder, takingPlanContract.parse(given))
  }
}
