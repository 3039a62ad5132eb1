import { Readable } from 'node:stream'
import type { Client, Subscription } from 'aedes'
import Packet, { type AedesPacket } from 'aedes-packet'
import MemoryPersistence from 'aedes-persistence/asyncPersistence.js'
import { OrderedStore, type Operation } from '../../disk/orderedStore'
import { storedPacket, packetText, readSubscriptions, type StoredSubscription } from './brokerText'
import { Outgoing } from './outgoing'
import { Wills, type LeftWill } from './wills'

type Named = Pick<Client, 'id'>
type SentPacket = AedesPacket & { messageId?: number }

interface StoreWays {
  /** Whether a topic is a tag's own: its last value comes from the tag, and need not be kept on the disk. */
  isOfTag(topic: string): boolean
  /** Whether a client may listen to a filter; what it may not is not kept for it. */
  mayListen(client: Named, filter: string): boolean
  /** As whom a client came. */
  nameOf(client: Named): string
  limits(): { kept: number; retained: number }
  /** A message was to be kept for who comes later, and as many topics as may be keep one already. */
  notRetained(topic: string): void
  /** Messages for a client were dropped because too many waited. */
  dropped(client: string, count: number): void
}

/**
 * What a broker remembers, in memory and on the engine's disk: messages that are kept for who comes later, and the sessions
 * of clients that are away, with what waits for them. What was confirmed to a sender is on the disk before.
 */
export class BrokerStore {
  private inner = new MemoryPersistence()
  private outgoing = new Map<string, Outgoing>()
  private subscribed = new Map<string, number>()
  private retained = new Set<string>()
  /** Clients with messages of QoS 2 whose last step may be open. */
  private incoming = new Set<string>()
  private disk: OrderedStore
  private wills: Wills
  private next = 1
  private accepted = new WeakMap<object, number>()
  private underWay = new Set<number>()
  private idling: (() => void)[] = []
  /** What could not be kept on the disk, the last time. */
  problem: string | null = null

  constructor(
    folder: string | null,
    private ways: StoreWays,
  ) {
    this.disk = new OrderedStore(folder)
    this.wills = new Wills(this.disk)
    this.isLasting = folder !== null
  }
  private isLasting: boolean

  /** Reads what was there before; returns messages that were confirmed and not handed on. */
  async load(): Promise<SentPacket[]> {
    if (!this.isLasting) return []
    await this.disk.open()
    for await (const [key, value] of this.disk.entries('s/')) await this.loadSession(nameIn(key), readSubscriptions(value))
    for await (const [, value] of this.disk.entries('r/')) {
      const packet = storedPacket(value)
      if (packet) await this.rememberRetained(packet)
    }
    for await (const [key, value] of this.disk.entries('o/')) this.loadOutgoing(key, storedPacket(value))
    for await (const [key, value] of this.disk.entries('i/')) await this.loadIncoming(nameIn(key), storedPacket(value))
    return this.loadAccepted()
  }

  /** A message of QoS 1, before it is confirmed: it shall be handed on, come what may. */
  async accept(packet: SentPacket): Promise<void> {
    if (!this.isLasting || !(await this.isWanted(packet))) return
    const sequence = this.next++
    this.accepted.set(packet, sequence)
    this.underWay.add(sequence)
    await this.settled([{ type: 'put', key: acceptedKey(sequence), value: packetText(packet) }])
  }

  /** It was handed on to everybody. */
  handedOn(packet: object) {
    const sequence = this.accepted.get(packet)
    if (sequence === undefined) return
    this.settledSoon([{ type: 'del', key: acceptedKey(sequence) }])
    this.underWay.delete(sequence)
    if (this.underWay.size === 0) for (const resolve of this.idling.splice(0)) resolve()
  }

  /** Of clients that were connected when an earlier life ended without notice. */
  leftWills(): Promise<LeftWill[]> {
    return this.isLasting ? this.wills.left() : Promise.resolve([])
  }

  /** Resolves once everything that was confirmed has been handed on. */
  idle(): Promise<void> {
    return this.underWay.size === 0 ? Promise.resolve() : new Promise((resolve) => this.idling.push(resolve))
  }

  status() {
    const sessions = [...this.subscribed].map(([client, topics]) => {
      const { size = 0, dropped = 0 } = this.outgoing.get(client) ?? {}
      return { client, topics, waiting: size, dropped }
    })
    return { sessions, retained: this.retained.size }
  }

  async close() {
    await this.disk.close()
  }

  // what follows is called by the package, under its names

  async setup(broker: unknown) {
    await this.inner.setup(broker)
  }

  async storeRetained(packet: AedesPacket) {
    const { topic, payload } = packet as AedesPacket & { topic: string; payload: Buffer }
    if (this.ways.isOfTag(topic)) return this.inner.storeRetained(packet)
    const isGone = payload.length === 0
    if (!isGone && !this.retained.has(topic) && this.retained.size >= this.ways.limits().retained) return this.ways.notRetained(topic)
    await this.rememberRetained(packet)
    const key = `r/${named(topic)}`
    await this.settled([isGone ? { type: 'del', key } : { type: 'put', key, value: packetText(packet) }])
  }

  createRetainedStream(pattern: string) {
    return this.inner.createRetainedStream(pattern)
  }

  createRetainedStreamCombi(patterns: string[]) {
    return this.inner.createRetainedStreamCombi(patterns)
  }

  async addSubscriptions(client: Named, subscriptions: Subscription[]) {
    const allowed = subscriptions.filter(({ topic }) => this.ways.mayListen(client, topic))
    if (allowed.length === 0) return
    await this.inner.addSubscriptions(client as Client, allowed)
    await this.keepSession(client)
  }

  async removeSubscriptions(client: Named, topics: string[]) {
    await this.inner.removeSubscriptions(client as Client, topics)
    await this.keepSession(client)
  }

  subscriptionsByClient(client: Named) {
    return this.inner.subscriptionsByClient(client as Client)
  }

  countOffline() {
    return this.inner.countOffline()
  }

  subscriptionsByTopic(topic: string) {
    return this.inner.subscriptionsByTopic(topic)
  }

  async cleanSubscriptions(client: Named) {
    await this.inner.cleanSubscriptions(client as Client)
    // most that come with a clean session never had another: they cost no look at the disk
    const wasKept = this.subscribed.delete(client.id) || this.outgoing.has(client.id)
    this.outgoing.delete(client.id)
    if (!this.isLasting || !wasKept) return
    const gone: Operation[] = [{ type: 'del', key: sessionKey(client) }]
    for await (const key of this.disk.keys(`o/${named(client.id)}/`)) gone.push({ type: 'del', key })
    await this.settled(gone)
  }

  async outgoingEnqueue(to: { clientId: string }, packet: AedesPacket) {
    await this.outgoingEnqueueCombi([to], packet)
  }

  async outgoingEnqueueCombi(all: { clientId: string }[], packet: AedesPacket) {
    if (all.length === 0) return
    await this.settled(all.flatMap(({ clientId }) => this.enqueue(clientId, packet)))
  }

  async outgoingUpdate(client: Named, packet: SentPacket) {
    const updated = this.outgoing.get(client.id)?.update(packet)
    if (!updated) throw new Error('no such packet')
    this.settledSoon([{ type: 'put', key: outgoingKey(client.id, updated.sequence), value: packetText(updated.packet) }])
  }

  async outgoingClearMessageId(client: Named, { messageId }: SentPacket) {
    const done = this.outgoing.get(client.id)?.confirmed(messageId)
    if (done) this.settledSoon([{ type: 'del', key: outgoingKey(client.id, done.sequence) }])
    return done?.packet
  }

  outgoingStream({ id }: Named) {
    return Readable.from(this.outgoing.get(id)?.all() ?? [])
  }

  async incomingStorePacket(client: Named, packet: SentPacket) {
    await this.inner.incomingStorePacket(client as Client, packet)
    this.incoming.add(client.id)
    await this.settled([{ type: 'put', key: incomingKey(client, packet), value: packetText(packet) }])
  }

  incomingGetPacket(client: Named, packet: AedesPacket) {
    return this.inner.incomingGetPacket(client as Client, packet)
  }

  async incomingDelPacket(client: Named, packet: SentPacket) {
    await this.inner.incomingDelPacket(client as Client, packet)
    this.settledSoon([{ type: 'del', key: incomingKey(client, packet) }])
  }

  async cleanIncoming(client: Named) {
    await this.inner.cleanIncoming(client as Client)
    const wasOpen = this.incoming.delete(client.id)
    if (this.isLasting && wasOpen) await this.disk.clear(`i/${named(client.id)}/`).catch((error: Error) => this.failed(error))
  }

  async putWill(client: Named, packet: AedesPacket) {
    await this.inner.putWill(client as Client, packet)
    await this.lasting(() => this.wills.put(client.id, this.ways.nameOf(client), packet))
  }

  getWill(client: Named) {
    return this.inner.getWill(client as Client)
  }

  async delWill(client: Named) {
    void this.lasting(() => this.wills.remove(client.id))
    return this.inner.delWill(client as Client)
  }

  streamWill(brokers?: Record<string, number>) {
    return this.inner.streamWill(brokers)
  }

  getClientList(topic: string) {
    return this.inner.getClientList(topic)
  }

  async destroy() {
    await this.inner.destroy()
  }

  private enqueue(client: string, packet: AedesPacket): Operation[] {
    const queue = this.outgoing.get(client) ?? new Outgoing()
    this.outgoing.set(client, queue)
    const operations: Operation[] = []
    while (queue.size >= this.ways.limits().kept) {
      const oldest = queue.dropOldest()
      if (!oldest) break
      operations.push({ type: 'del', key: outgoingKey(client, oldest.sequence) })
      this.ways.dropped(client, queue.dropped)
    }
    const { sequence, packet: kept } = queue.add(this.next++, new (Packet as unknown as PacketClass)(packet))
    return [...operations, { type: 'put', key: outgoingKey(client, sequence), value: packetText(kept) }]
  }

  private async keepSession(client: Named) {
    const subscriptions = await this.inner.subscriptionsByClient(client as Client)
    if (subscriptions.length === 0) this.subscribed.delete(client.id)
    else this.subscribed.set(client.id, subscriptions.length)
    const key = sessionKey(client)
    await this.settled([subscriptions.length === 0 ? { type: 'del', key } : { type: 'put', key, value: JSON.stringify(subscriptions) }])
  }

  private async rememberRetained(packet: AedesPacket) {
    const { topic, payload } = packet as AedesPacket & { topic: string; payload: Buffer }
    await this.inner.storeRetained(packet)
    if (payload.length === 0) this.retained.delete(topic)
    else this.retained.add(topic)
  }

  /** Whether anybody would miss it: it is kept for those who come later, or for somebody who may be away. */
  private async isWanted(packet: AedesPacket): Promise<boolean> {
    const { topic, retain } = packet as AedesPacket & { topic: string; retain: boolean }
    return retain || (await this.inner.subscriptionsByTopic(topic)).length > 0
  }

  private async loadSession(id: string, subscriptions: StoredSubscription[]) {
    if (subscriptions.length === 0) return
    await this.inner.addSubscriptions({ id } as Client, subscriptions)
    this.subscribed.set(id, subscriptions.length)
  }

  private loadOutgoing(key: string, packet: SentPacket | null) {
    const client = nameIn(key)
    const sequence = Number(key.split('/')[2])
    this.next = Math.max(this.next, sequence + 1)
    if (!packet) return
    const queue = this.outgoing.get(client) ?? new Outgoing()
    this.outgoing.set(client, queue)
    queue.add(sequence, packet)
  }

  private async loadIncoming(id: string, packet: SentPacket | null) {
    if (!packet) return
    await this.inner.incomingStorePacket({ id } as Client, packet)
    this.incoming.add(id)
  }

  private async loadAccepted(): Promise<SentPacket[]> {
    const left: SentPacket[] = []
    for await (const [key, value] of this.disk.entries('a/')) {
      const sequence = Number(key.split('/')[1])
      this.next = Math.max(this.next, sequence + 1)
      const packet = storedPacket(value)
      if (!packet) continue
      this.accepted.set(packet, sequence)
      left.push(packet)
    }
    return left
  }

  /** Where the disk fails the broker goes on with what it has in memory, and tells. */
  private async settled(operations: readonly Operation[]): Promise<void> {
    if (operations.length > 0) await this.lasting(() => this.disk.settled(operations))
  }

  private async lasting(step: () => Promise<void>): Promise<void> {
    if (!this.isLasting) return
    await step().then(
      () => (this.problem = null),
      (error: Error) => this.failed(error),
    )
  }

  private settledSoon(operations: readonly Operation[]) {
    void this.settled(operations)
  }

  private failed(error: Error) {
    this.problem = error.message
  }
}

type PacketClass = new (packet: AedesPacket) => SentPacket

/** Names may hold any character, also “/”. */
const named = (text: string) => encodeURIComponent(text)
const nameIn = (key: string) => decodeURIComponent(key.split('/')[1]!)
const number = (value: number) => String(value).padStart(16, '0')

const sessionKey = ({ id }: Named) => `s/${named(id)}`
const outgoingKey = (client: string, sequence: number) => `o/${named(client)}/${number(sequence)}`
const incomingKey = ({ id }: Named, { messageId }: SentPacket) => `i/${named(id)}/${messageId ?? 0}`
const acceptedKey = (sequence: number) => `a/${number(sequence)}`
