import { randomBytes } from 'node:crypto'
import {
  Aedes,
  type AedesPublishPacket,
  type AuthenticateError,
  type Client,
  type Connection,
  type PublishPacket,
  type Subscription,
} from 'aedes'
import { CallSource, type CallBook } from '#core/calls/callBook'
import { topicProblem } from '#core/mqtt/topic'
import type { Qos } from '#core/mqtt/settings'
import { counted } from '#core/text/counted'
import type { BrokerDoor } from '#shared/outlets/mqttBroker'
import { within } from '#pacing/within'
import type { Arrival, Keeping } from '../../arrivals/arrival'
import type { BrokerStore } from './brokerStore'
import { noteCall, qualityOfService } from './calls'
import type { BrokerGuest, BrokerGuests } from './guests'
import { deliverWithoutWaiting, isIn, limitPackets, writeTogether } from './internals'

export interface BrokerWays {
  guests: BrokerGuests
  store: BrokerStore
  calls: CallBook
  /** The largest packet, bytes. */
  mostBytes(): number
  /** Whether a topic is a tag's own, which only the tag tells of. */
  isOfTag(topic: string): boolean
  /** A client sent a message that it may send. */
  arrived(arrival: Arrival, client: Pick<Client, 'id'>, guest: BrokerGuest): void
  /** A client wanted something that it cannot have. */
  refused(client: string, text: string): void
  /** Something went wrong in the broker itself. */
  failed(problem: string): void
}

/** By which way a client came. */
export interface Entry {
  door: Pick<BrokerDoor, 'anonymous' | 'names' | 'tls'>
  from: string
}

export interface Visit extends Entry {
  guest: BrokerGuest | null
  since: number
  lastAsked: string
  lastAskedAt: number
  source?: CallSource
}

export interface Message {
  topic: string
  payload: string | Uint8Array
  qos: Qos
  retain: boolean
}

/** Messages of QoS 0 for a client that has so much still to take are dropped; one with so much more to take is sent out. */
const mostBehind = 4 * 1024 * 1024
const mostBehindAtAll = 32 * 1024 * 1024
/** Where messages go that may not be sent: nobody can listen there (MQTT 3.1.1, 4.7.2). */
const nowhere = '$refused'
const closeWithinMs = 3000

/** Of so many topics it is known who asked last for a message to be kept. */
const mostKeepers = 200

/** The broker itself: who may come in, send and listen, and what becomes of messages. The protocol is the package's. */
export class MessageBroker {
  private keepers = new Map<string, string>()
  private visits = new WeakMap<Client, Visit>()
  private entries = new WeakMap<object, Entry>()
  private inOrder = new WeakMap<Client, Promise<unknown>>()
  private clients = new Set<Client>()
  received = 0
  sent = 0
  dropped = 0

  private constructor(
    private aedes: Aedes,
    private ways: BrokerWays,
  ) {}

  static async open(ways: BrokerWays): Promise<MessageBroker> {
    const left = await ways.store.load()
    const aedes = new Aedes({
      persistence: ways.store,
      // messages wait for nobody, so none of them takes the place of another
      concurrency: 0,
      heartbeatInterval: 60_000,
      connectTimeout: 10_000,
      maxClientsIdLength: 200,
      queueLimit: 1000,
    })
    const broker = new MessageBroker(aedes, ways)
    broker.attend()
    await aedes.listen()
    for (const packet of left) await broker.handOnAgain(packet as never)
    return broker
  }

  /** Takes a connection. */
  take(connection: Connection, entry: Entry) {
    this.entries.set(connection, entry)
    const client = this.aedes.handle(connection)
    limitPackets(client, this.ways.mostBytes, (bytes) =>
      this.ways.refused(this.nameOf(client), `sent a message of ${bytes.toLocaleString('en-GB')} bytes, more than one may have`),
    )
    deliverWithoutWaiting(client)
    writeTogether(client)
  }

  /** Resolves once it was handed on, and is kept for those who are away. */
  publish({ topic, payload, qos, retain }: Message): Promise<void> {
    const packet: PublishPacket = { cmd: 'publish', topic, payload: payload as Buffer, qos, retain, dup: false }
    return new Promise((resolve, reject) => this.aedes.publish(packet, (error) => (error ? reject(error) : resolve())))
  }

  *connected(): Iterable<{ client: Client; visit: Visit; topics: number }> {
    for (const client of this.clients) {
      const visit = this.visits.get(client)
      const { subscriptions } = client as unknown as { subscriptions: object }
      if (visit) yield { client, visit, topics: Object.keys(subscriptions).length }
    }
  }

  disconnect(id: string): boolean {
    const client = [...this.clients].find((one) => one.id === id)
    client?.conn.destroy()
    return client !== undefined
  }

  /** Ends whoever came as somebody who is no more, or whose rights are others now. */
  endChanged() {
    for (const { client, visit } of this.connected()) {
      if (!visit.guest || this.ways.guests.isStill(visit.guest)) continue
      // its last will is sent by the rights of now
      visit.guest = this.ways.guests.now(visit.guest.name)
      client.conn.destroy()
    }
  }

  /** Sends what clients wanted to be sent that were connected when the engine ended without notice. */
  async sendLeftWills() {
    const { store, guests } = this.ways
    for (const { client, name, packet } of await store.leftWills()) {
      const guest = guests.now(name)
      const will = packet as PublishPacket
      const refusal = guest ? this.whyNotSent(guest, will) : 'has a last will, and its name is no more'
      if (guest && refusal === null) await this.sendWill(client, will, guest)
      else if (refusal) this.ways.refused(client, refusal)
      await store.delWill({ id: client })
    }
  }

  private async sendWill(client: string, will: PublishPacket, guest: BrokerGuest) {
    if (will.retain) this.noteKeeper(will.topic, client)
    const waits: Keeping[] = []
    this.ways.arrived({ ...arrivalOf(will), waits }, { id: client }, guest)
    await Promise.all(waits).catch((error: Error) => this.ways.failed(error.message))
    await this.publish({ topic: will.topic, payload: will.payload, qos: will.qos, retain: will.retain })
  }

  async close() {
    for (const client of this.clients) client.conn.destroy()
    await within(closeWithinMs, this.ways.store.idle()).catch(() => {})
    await within(closeWithinMs, new Promise<void>((resolve) => this.aedes.close(() => resolve()))).catch(() => {})
    await this.ways.store.close()
  }

  private attend() {
    const { aedes } = this
    aedes.authenticate = (client, name, password, done) => void this.letIn(client, name, password, done)
    aedes.authorizePublish = (client, packet, done) => this.takeMessage(client, packet, done)
    aedes.authorizeSubscribe = (client, subscription, done) => done(null, this.mayListen(client, subscription))
    aedes.authorizeForward = (client, packet) => this.forward(client, packet)
    aedes.published = (packet, _client, done) => {
      this.ways.store.handedOn(packet)
      done(null)
    }
    aedes.on('subscribe', (subscriptions: Subscription[], client: Client) =>
      this.noteAsked(client, `listened to ${subscriptions.map(({ topic }) => topic).join(', ')}`),
    )
    aedes.on('clientError', (client: Client, error: Error) => this.noteError(client, error))
    aedes.on('connectionError', (client: Client, error: Error) => this.noteError(client, error))
    ;(aedes as NodeJS.EventEmitter).on('error', (error: Error) => this.ways.failed(error.message))
  }

  private async letIn(
    client: Client,
    name: string | undefined,
    password: Readonly<Buffer> | undefined,
    done: (error: AuthenticateError | null, isIn: boolean | null) => void,
  ) {
    const entry = this.entries.get(client.conn)
    const refuse = (returnCode: number, text: string) => {
      this.noteNotLetIn(client, name, text)
      done(Object.assign(new Error(text), { returnCode }) as AuthenticateError, false)
    }
    if (!entry) return refuse(5, 'came by no door')
    const unnamed = client.id.startsWith(madeByPackage)
    if (unnamed && !client.clean) return refuse(2, 'wants its session kept and gives no client id (MQTT 3.1.1, 3.1.3.1)')
    if (client.id.includes('\0')) return refuse(2, 'has a NUL in its client id')
    if (unnamed) (client as { id: string }).id = `client-${randomBytes(5).toString('hex')}`
    if (name === undefined && !entry.door.anonymous) return refuse(5, 'came without a name, and this door asks for one')
    if (name !== undefined && !entry.door.names) return refuse(5, `came by the name “${name}”, and this door takes no names`)
    const guest =
      name === undefined
        ? this.ways.guests.withoutName
        : await this.ways.guests.withPassword(name, password?.toString() ?? '', entry.from).catch(() => null)
    if (!guest) return refuse(4, `came by the name “${name}” with a password that does not belong to it`)
    const other = [...this.clients].find(({ id, closed }) => id === client.id && !closed)
    const before = other && this.visits.get(other)
    if (before)
      this.ways.refused(client.id, `came from ${entry.from} while connected from ${before.from}: the earlier connection was ended`)
    this.visits.set(client, { ...entry, guest, since: Date.now(), lastAsked: 'connected', lastAskedAt: Date.now() })
    // from the moment it is let in, so that no change of rights passes it by
    this.clients.add(client)
    this.called(client, { service: 'CONNECT', what: `as ${guest.name}`, status: sessionText(client) })
    client.conn.once('close', () => this.clients.delete(client))
    done(null, true)
  }

  private noteNotLetIn(client: Client, name: string | undefined, text: string) {
    this.ways.refused(this.nameOf(client), text)
    const source = new CallSource({ name: this.nameOf(client), from: this.entries.get(client.conn)?.from ?? '', as: '' })
    noteCall(this.ways.calls, source, { service: 'CONNECT', what: name === undefined ? 'without a name' : `as ${name}`, refused: text })
  }

  /** Runs for each message of a client, and before it is confirmed. */
  private takeMessage(client: Client | null, packet: PublishPacket, done: (error?: Error | null) => void) {
    const visit = client && this.visits.get(client)
    if (!client || !visit?.guest) return done(new Error('nobody’s message'))
    this.received++
    const refusal = this.whyNotSent(visit.guest, packet)
    if (refusal) {
      // MQTT 3.1.1 has no word for it: the message is taken, and goes nowhere (3.3.5)
      this.ways.refused(client.id, refusal)
      this.called(client, { service: 'PUBLISH', what: packet.topic, payload: packet.payload, refused: refusal })
      Object.assign(packet, { topic: nowhere, retain: false })
      return done(null)
    }
    if (packet.retain) this.noteKeeper(packet.topic, client.id)
    visit.lastAsked = `sent to ${packet.topic}`
    visit.lastAskedAt = Date.now()
    const call = { service: 'PUBLISH', what: packet.topic, payload: packet.payload, status: qualityOfService(packet) }
    if (packet.qos === 0) {
      this.called(client, call)
      this.ways.arrived(arrivalOf(packet), client, visit.guest)
      return done(null)
    }
    const began = performance.now()
    this.confirmInOrder(client, this.kept(client, visit.guest, packet), (error) => {
      this.called(client, { ...call, ms: performance.now() - began, refused: error?.message ?? null })
      done(error)
    })
  }

  /** Who asked last for a message on a topic to be kept; empty: that is not known any more. */
  keeperOf(topic: string): string {
    return this.keepers.get(topic) ?? ''
  }

  private noteKeeper(topic: string, client: string) {
    this.keepers.delete(topic)
    if (this.keepers.size >= mostKeepers) this.keepers.delete(this.keepers.keys().next().value!)
    this.keepers.set(topic, client)
  }

  private whyNotSent({ rules }: BrokerGuest, { topic }: PublishPacket): string | null {
    const problem = topicProblem(topic)
    if (problem) return `sent to a topic that is none: ${problem}`
    if (topic.startsWith('$')) return `sent to ${topic}, which is the broker’s own`
    if (!rules.maySend(topic)) return `sent to ${topic}, and may not`
    return this.ways.isOfTag(topic) ? `sent to ${topic}, which is a tag’s own` : null
  }

  /** Resolves once everybody who has to has taken note of it for good. */
  private async kept(client: Client, guest: BrokerGuest, packet: PublishPacket): Promise<void> {
    const { store } = this.ways
    if (packet.qos === 2 && (await isRepeated(store, client, packet))) return
    const waits: Keeping[] = []
    this.ways.arrived({ ...arrivalOf(packet), waits }, client, guest)
    await Promise.all([...waits, ...(packet.qos === 1 ? [store.accept(packet as never)] : [])])
  }

  private confirmInOrder(client: Client, kept: Promise<void>, done: (error?: Error | null) => void) {
    const before = this.inOrder.get(client) ?? Promise.resolve()
    const next = before
      .then(() => kept)
      .then(
        () => done(null),
        (error: Error) => done(error),
      )
    this.inOrder.set(
      client,
      next.catch(() => {}),
    )
  }

  private mayListen(client: Client, subscription: Subscription): Subscription | null {
    const guest = this.visits.get(client)?.guest
    const call = { service: 'SUBSCRIBE', what: subscription.topic, status: `QoS ${subscription.qos}` }
    if (guest?.rules.maySubscribe(subscription.topic)) {
      this.called(client, call)
      return subscription
    }
    this.called(client, { ...call, refused: 'it may not listen to that' })
    this.ways.refused(client.id, `wanted to listen to ${subscription.topic}, and may not`)
    return null
  }

  /** What a client may listen to, whatever it asked for once. */
  mayHear(client: Pick<Client, 'id'>, filter: string): boolean {
    return this.visits.get(client as Client)?.guest?.rules.maySubscribe(filter) ?? false
  }

  /** As whom a client came. */
  guestName(client: Pick<Client, 'id'>): string {
    return this.visits.get(client as Client)?.guest?.name ?? ''
  }

  private forward(client: Client, packet: AedesPublishPacket): AedesPublishPacket | null {
    const behind = client.conn.writableLength
    if (behind > mostBehind && (packet.qos === 0 || behind > mostBehindAtAll)) return this.tooSlow(client, packet)
    // what waited for it may be of a time when it had other rights
    if (!client.connected && this.visits.get(client)?.guest?.rules.mayHear(packet.topic) === false) return null
    this.sent++
    this.noteSent(client, packet)
    return packet
  }

  private noteSent(client: Client, packet: AedesPublishPacket) {
    const { topic, payload } = packet
    this.called(client, { service: 'PUBLISH', what: topic, payload, status: qualityOfService(packet), isTold: true })
  }

  private called(client: Client, call: Parameters<typeof noteCall>[2]) {
    const visit = this.visits.get(client)
    if (!visit) return
    visit.source ??= new CallSource({ name: client.id, from: visit.from, as: visit.guest?.name ?? '' })
    noteCall(this.ways.calls, visit.source, call)
  }

  private tooSlow(client: Client, packet: AedesPublishPacket): AedesPublishPacket | null {
    if (packet.qos === 0) {
      this.dropped++
      this.called(client, { service: 'PUBLISH', what: packet.topic, refused: 'it takes them too slowly: dropped', isTold: true })
      this.ways.refused(client.id, 'takes messages more slowly than they come: those of QoS 0 are dropped')
      return null
    }
    this.ways.refused(client.id, 'takes messages more slowly than they come: its connection was ended')
    client.conn.destroy()
    return packet
  }

  /** Confirmed before an end that nobody wanted. */
  private async handOnAgain(packet: PublishPacket) {
    await new Promise<void>((resolve) => this.aedes.publish(packet, () => resolve()))
  }

  private noteAsked(client: Client, text: string) {
    const visit = this.visits.get(client)
    if (!visit) return
    visit.lastAsked = text
    visit.lastAskedAt = Date.now()
  }

  private noteError(client: Client, error: Error) {
    const text = problemText(error)
    if (text !== null) this.ways.refused(this.nameOf(client), text)
  }

  private nameOf(client: Client): string {
    return client.id && isIn(client) ? client.id : (client.id ?? `somebody from ${this.entries.get(client.conn)?.from ?? 'somewhere'}`)
  }
}

/** Whether it takes messages more slowly than they come. */
export const isBehind = ({ conn }: Client): boolean => conn.writableLength > mostBehind

const sessionText = ({ clean }: Client) => (clean ? 'a new session' : 'its session is kept')

const madeByPackage = 'aedes_'

const arrivalOf = ({ topic, payload }: PublishPacket): Arrival => ({
  topic,
  payload: typeof payload === 'string' ? Buffer.from(payload) : payload,
  at: Date.now(),
})

/** A message of QoS 2 that came before and whose last step is still open (MQTT 4.3.3). */
const isRepeated = (store: BrokerStore, client: Client, packet: PublishPacket): Promise<boolean> =>
  store.incomingGetPacket(client, packet as never).then(
    () => true,
    () => false,
  )

/** Connections break every day, and who was refused is told already. */
const everyday = /ECONNRESET|EPIPE|aborted|premature close|write after end/i

const problemText = (error: Error & { errorCode?: number; code?: string }): string | null => {
  if (error.errorCode === 1) return 'speaks another version than MQTT 3.1.1, which this broker speaks'
  if (error.errorCode !== undefined || everyday.test(`${error.code} ${error.message}`)) return null
  if (/keep alive timeout/.test(error.message)) return 'gave no sign of life within its keep alive, and was let go'
  if (/connect did not arrive/.test(error.message)) return `sent no CONNECT within ${counted(10, 'second')}`
  return `sent what is no MQTT: ${error.message}`
}
