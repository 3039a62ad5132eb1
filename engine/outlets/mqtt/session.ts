import type { Client } from 'aedes'
import { fault, type Fault } from '#core/faults/catalogue'
import { topicProblem } from '#core/mqtt/topic'
import { readSetting } from '#core/outlets/published'
import { counted } from '#core/text/counted'
import { hostText } from '#core/opcua/endpointAddress'
import { schemeOf, type BrokerDoor, type MqttBrokerSettings } from '#shared/outlets/mqttBroker'
import type { ClientStatus, OutletStatus } from '#shared/status'
import type { Writer } from '#shared/writes'
import { Backoff } from '#pacing/backoff'
import { inParallel } from '#pacing/inParallel'
import { Rate } from '#pacing/rate'
import type { Arrival } from '../../arrivals/arrival'
import type { MessageSender, OutMessage, Verdict } from '../../links/receiving'
import type { Handle } from '../../table/tagTable'
import { Admission, plainAddress } from '../doors/admission'
import { DoorSet, type Opened } from '../doors/doorSet'
import { flowOfDoors, wasJustRefused } from '../doors/flow'
import { PasswordGate } from '../doors/passwordGate'
import { hostOf } from '../doors/place'
import { Refusals } from '../doors/refusals'
import type { OutletContext, OutletSession, OutletTag } from '../driver'
import { isBehind, MessageBroker, type Visit } from './broker'
import { BrokerStore } from './brokerStore'
import { checkDoor } from './doorCheck'
import { BrokerGuests, type BrokerGuest } from './guests'
import { listenAt } from './listeners'
import { Publications } from './publications'

const mostSessionsShown = 100
const mostUnderWay = 200

/** An MQTT broker over the tag table: it publishes tags, takes what clients send, and keeps what it has to over restarts. */
export class MqttBrokerSession implements OutletSession<MqttBrokerSettings>, MessageSender {
  readonly takes = 'topic'
  private settings: MqttBrokerSettings
  private guests: BrokerGuests
  private refusals: Refusals
  private publications: Publications
  private store: BrokerStore
  private broker: MessageBroker | null = null
  private doors: DoorSet<BrokerDoor, Opened>
  private fault: Fault | null = null
  private backoff = new Backoff(1000, 30_000)
  private retryTimer: NodeJS.Timeout | null = null
  private work: Promise<void> = Promise.resolve()
  private closed = false
  private stops: (() => void)[]
  private rates: { told: Rate; received: Rate; sent: Rate }
  private admission: Admission

  constructor(private context: OutletContext<MqttBrokerSettings>) {
    const { settings, security, table, journal, name, folder } = context
    const caution = (problem: string) => journal.caution(name, problem)
    this.settings = settings
    this.guests = new BrokerGuests(settings, new PasswordGate(security.seal, caution))
    this.refusals = new Refusals(({ client, text }) => caution(`${client} ${text}.`))
    this.admission = new Admission(
      () => this.settings.limits,
      (from, text) => this.refusals.note(`somebody from ${from}`, text),
    )
    this.publications = new Publications(table, (message) => this.publish(message))
    this.store = new BrokerStore(folder, {
      isOfTag: (topic) => this.publications.owns(topic),
      mayListen: (client, filter) => this.broker?.mayHear(client, filter) ?? false,
      nameOf: (client) => this.broker?.guestName(client) ?? '',
      limits: () => this.settings.limits,
      notRetained: (topic) =>
        this.refusals.note(
          this.broker?.keeperOf(topic) || 'somebody',
          `wanted a message on ${topic} kept, and as many topics as may be keep one already`,
        ),
      dropped: (client, count) => count === 1 && caution(`More messages wait for ${client} than are kept: the oldest are dropped.`),
    })
    this.rates = {
      told: new Rate(() => this.publications.told),
      received: new Rate(() => this.broker?.received ?? 0),
      sent: new Rate(() => this.broker?.sent ?? 0),
    }
    this.doors = new DoorSet({
      addressOf,
      listen: (door, arrivals) =>
        listenAt(door, security.own, {
          admits: (socket, ofDoor) => this.admission.admits(socket.remoteAddress, ofDoor.size),
          knocked: (socket) => {
            arrivals.note(socket.remoteAddress)
            this.admission.count(socket)
          },
          came: (connection, socket) => {
            context.wire.attendOne(connection, `${socket.remoteAddress}:${socket.remotePort}`)
            this.broker?.take(connection as never, { door, from: plainAddress(socket.remoteAddress) })
          },
          unsecured: (from, problem) => this.refusals.note(`somebody from ${plainAddress(from)}`, `could not agree on TLS: ${problem}`),
        }),
      opened: (address) => journal.note(name, `Open at ${address}.`),
      failed: (why) => journal.trouble(name, why.what, why),
    })
    this.stops = [table.listen((handles) => this.publications.announce(handles)), security.own.onChange(() => this.reopenSecured())]
    this.enqueue(async () => context.after)
    this.enqueue(() => this.open())
  }

  /** Doors that did not change stay as they are, with everybody who came in by them. */
  update(settings: MqttBrokerSettings) {
    const before = this.settings
    this.settings = settings
    this.guests.take(settings)
    this.broker?.endChanged()
    if (JSON.stringify(before.publishes) !== JSON.stringify(settings.publishes)) this.publications.take(settings.publishes)
    if (this.broker) void this.doors.apply(settings.doors)
  }

  setTags(changed: readonly OutletTag[], removed: readonly Handle[]) {
    this.publications.setTags(changed, removed)
  }

  shows(path: string) {
    return this.publications.shows(path)
  }

  get changesTold() {
    return this.publications.told
  }

  status(): Omit<OutletStatus, 'id' | 'feeds'> {
    const doors = this.doors.status()
    const clients = [...(this.broker?.connected() ?? [])].map((one) => this.clientStatus(one))
    const { sessions, retained } = this.store.status()
    const { published, notPublished } = this.publications.status()
    const why = this.fault ?? doors.find((door) => door.fault)?.fault ?? this.diskFault()
    const isIn = new Set(clients.map(({ id }) => id))
    return {
      flow: this.broker ? flowOfDoors(doors) : this.fault ? 'broken' : 'late',
      sentence: why?.what ?? this.sentence(clients.length, published),
      fault: why,
      addresses: doors.map(({ address }) => address),
      clients,
      items: clients.reduce((total, { items }) => total + items, 0),
      changesPerSecond: this.rates.told.perSecond,
      details: {
        kind: 'mqtt-broker',
        doors,
        sessions: sessions.slice(0, mostSessionsShown).map((one) => ({ ...one, connected: isIn.has(one.client) })),
        sessionCount: sessions.length,
        ...{ retained, published, notPublished },
        receivedPerSecond: this.rates.received.perSecond,
        sentPerSecond: this.rates.sent.perSecond,
        dropped: this.broker?.dropped ?? 0,
        refused: this.refusals.list(),
      },
    }
  }

  disconnect(clientId: string): boolean {
    return this.broker?.disconnect(clientId) ?? false
  }

  check(index: number) {
    const found = this.doors.at(index)
    return found ? checkDoor({ ...found, own: this.context.security.own, wire: this.context.wire }) : null
  }

  /** Messages of bridges, without a socket between. */
  receiver(): MessageSender | Fault {
    return this.broker ? this : (this.fault ?? fault('outlet.off', {}))
  }

  send(messages: readonly OutMessage[]): Promise<Verdict[]> {
    return inParallel(messages, mostUnderWay, (message) => this.sendOne(message))
  }

  async close() {
    this.closed = true
    for (const stop of this.stops) stop()
    for (const rate of Object.values(this.rates)) rate.close()
    if (this.retryTimer) clearTimeout(this.retryTimer)
    this.enqueue(() => this.shut())
    await this.work
  }

  private async sendOne(message: OutMessage): Promise<Verdict> {
    const { topic } = message
    const problem = topicProblem(topic) ?? (topic.startsWith('$') ? 'topics that begin with “$” are the broker’s own' : null)
    if (problem) return fault('mqtt.not-sent', { topic, problem })
    if (this.publications.owns(topic)) return fault('mqtt.not-sent', { topic, problem: 'it is a tag’s own, and the tag tells of it' })
    const { broker } = this
    if (!broker) throw fault('outlet.off', {}) as unknown as Error
    await broker.publish(message)
    return null
  }

  private async publish(message: Parameters<MessageBroker['publish']>[0]) {
    await this.broker?.publish(message).catch((error: Error) => this.failedInside(error.message))
  }

  /** A message that may be sent: it may set a tag, and others may wait for it. */
  private arrived(arrival: Arrival, client: Pick<Client, 'id'>, guest: BrokerGuest) {
    const tag = this.publications.setBy(arrival.topic)
    if (tag) void this.setTag(tag, arrival, client, guest)
    else this.context.arrivals.hand(arrival)
  }

  private async setTag(tag: OutletTag, { payload, topic }: Arrival, client: Pick<Client, 'id'>, guest: BrokerGuest) {
    const refuse = (why: string) => this.refusals.note(client.id, `sent to ${topic}, and ${tag.path} was not set: ${why}`)
    if (!tag.writable) return refuse('it may only be read')
    const told = readSetting(payload, tag.type)
    if (!told.ok) return refuse(told.problem)
    const by: Writer = { who: `${client.id}, as ${guest.name}`.slice(0, 200), via: 'client', place: this.context.name.slice(0, 200) }
    const outcome = await this.context.write(tag.handle, told.value, by).catch((error: Error) => error)
    if (outcome instanceof Error) refuse(outcome.message)
    else if (!outcome.ok) refuse(outcome.fault.what)
  }

  /** Whoever only listens asks nothing for days: what is late is what waits for it. */
  private clientStatus({ client, visit, topics }: { client: Client; visit: Visit; topics: number }): ClientStatus {
    const refused = this.refusals.lastOf(client.id)
    return {
      id: client.id,
      name: client.id,
      from: visit.from,
      identity: visit.guest?.name ?? '',
      security: visit.door.tls ? 'TLS' : 'not encrypted',
      flow: isBehind(client) || wasJustRefused(refused) ? 'late' : 'flowing',
      since: visit.since,
      items: topics,
      lastAsked: visit.lastAsked,
      lastAskedAt: visit.lastAskedAt,
      lastGot: '',
      refused,
    }
  }

  private sentence(clients: number, published: number): string {
    if (!this.broker) return 'Opening'
    return clients === 0
      ? `Open, no client connected, ${counted(published, 'topic')} published`
      : `${counted(clients, 'client')}, ${counted(published, 'topic')} published`
  }

  private diskFault(): Fault | null {
    const { problem } = this.store
    return problem === null ? null : fault('outlet.disk', { problem })
  }

  /** Opening and closing take time; one after the other. */
  private enqueue(step: () => Promise<void>) {
    this.work = this.work.then(step).catch((error: unknown) => this.failed(error as Error))
  }

  private async open() {
    if (this.closed || this.broker) return
    this.broker = await MessageBroker.open({
      guests: this.guests,
      store: this.store,
      calls: this.context.calls,
      mostBytes: () => this.settings.limits.payload * 1024,
      isOfTag: (topic) => this.publications.owns(topic),
      arrived: (arrival, client, guest) => this.arrived(arrival, client, guest),
      refused: (client, text) => this.refusals.note(client, text),
      failed: (problem) => this.failedInside(problem),
    })
    this.fault = null
    this.backoff.reset()
    this.publications.take(this.settings.publishes)
    await this.broker.sendLeftWills()
    await this.doors.apply(this.settings.doors)
  }

  private async shut() {
    const { broker } = this
    this.publications.close()
    this.broker = null
    await this.doors.close()
    await (broker ? broker.close() : this.store.close())
  }

  /** Our certificate is another one; doors that show it have to show the new one. */
  private reopenSecured() {
    if (!this.settings.doors.some(({ tls }) => tls)) return
    this.context.journal.note(this.context.name, 'Our certificate changed; the doors that show it are opened anew.')
    this.enqueue(async () => {
      await this.doors.apply(this.settings.doors.filter(({ tls }) => !tls))
      await this.doors.apply(this.settings.doors)
    })
  }

  private failedInside(problem: string) {
    const why = fault('outlet.failed', { problem })
    this.context.journal.trouble(this.context.name, why.what, why)
  }

  private failed(error: Error) {
    const first = this.fault === null
    this.fault = fault('outlet.failed', { problem: error.message })
    if (first) this.context.journal.trouble(this.context.name, this.fault.what, this.fault)
    if (!this.closed) this.retryTimer = setTimeout(() => this.enqueue(() => this.open()), this.backoff.next())
  }
}

const addressOf = (door: BrokerDoor) => `${schemeOf(door)}://${hostText(hostOf(door))}:${door.port}`
