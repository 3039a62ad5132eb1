import type { Duplex } from 'node:stream'
import { ErrorWithReasonCode, MqttClient, type IClientOptions, type IDisconnectPacket, type IPublishPacket } from 'mqtt'
import { fault, type Fault, isFault } from '#core/faults/catalogue'
import { hexCode, reasonOf, takenOver } from '#core/mqtt/reasons'
import type { MqttSettings, Qos } from '#core/mqtt/settings'
import { within } from '#pacing/within'
import type { Keeping } from '../../arrivals/arrival'
import { Acknowledging } from './acknowledging'
import type { Credentials } from './credentials'
import { connectTo } from './transport'
import { tlsEnding } from '../../wire/tlsOver'
import type { Wire } from '../../wire/wire'

export interface Heard {
  topic: string
  payload: Buffer
  retained: boolean
  /** By which an answer is known (MQTT 5.0, 3.3.2.3.6). */
  correlation?: Buffer
  /** What has to come about before the broker is told that we have it; absent: it does not ask. */
  waits?: Keeping[]
}

export interface Entering {
  settings: MqttSettings
  /** As the broker is to know us. */
  clientId: string
  credentials: Credentials
  wire: Wire
  signal: AbortSignal
  heard(message: Heard): void
}

interface Sending {
  qos: Qos
  retain: boolean
  /** Where an answer is to come, and by what it will be known (MQTT 5.0, 4.10). */
  asks?: { answers: string; id: string }
}

/** So many filters are asked for in one packet. */
const filtersAtOnce = 200

/** One connection to a broker, from CONNACK to its end. */
export class Broker {
  /** Why it ended; null: we did. */
  readonly ended: Promise<Fault | null>
  private end!: (why: Fault | null) => void

  private constructor(
    private client: MqttClient,
    private around: Pick<Entering, 'settings' | 'clientId'>,
    /** The broker knows the session that we had. */
    readonly isKnown: boolean,
    readonly ms: number,
    /** When we began to connect, Unix milliseconds. */
    readonly askedAt: number,
  ) {
    this.ended = new Promise((resolve) => (this.end = resolve))
    client.on('disconnect', (packet) => this.end(this.endedBy(packet)))
    client.on('error', (error) => this.end(brokenFault(error, around.settings)))
    client.on('close', () => this.end(fault('mqtt.closed', around.settings)))
  }

  /** Connects and signs in, by MQTT 3.1.1 where the broker does not speak 5.0; rejects with a Fault. */
  static async enter(entering: Entering): Promise<Broker> {
    const { settings, wire, signal } = entering
    const dial = () => connectTo(settings, entering.credentials.pair, wire, signal)
    const stream = await dial()
    try {
      return await Broker.greet(stream, entering)
    } catch (why) {
      if (!isOtherVersion(why, settings)) throw why
      return Broker.greet(await dial(), { ...entering, settings: { ...settings, version: '3.1.1' } })
    }
  }

  /** Signs in over a connection that stands; rejects with a Fault. */
  static async greet(socket: Duplex, entering: Omit<Entering, 'wire'>): Promise<Broker> {
    const { settings, signal, heard } = entering
    const [began, askedAt] = [performance.now(), Date.now()]
    const client = new MqttClient(() => socket as never, optionsOf(entering))
    const abort = () => socket.destroy()
    signal.addEventListener('abort', abort, { once: true })
    const acknowledging = new Acknowledging(client)
    client.on('message', (topic, payload, packet: IPublishPacket) => {
      const waits: Keeping[] = []
      const correlation = packet.properties?.correlationData
      heard({ topic, payload, retained: packet.retain, ...(correlation ? { correlation } : {}), ...(packet.qos > 0 ? { waits } : {}) })
      if (waits.length > 0) acknowledging.hold(packet.messageId!, Promise.allSettled(waits))
    })
    try {
      const isKnown = await answered(client, socket, settings)
      return new Broker(client, entering, isKnown, performance.now() - began, askedAt)
    } catch (why) {
      giveUp(client, socket)
      throw why
    } finally {
      signal.removeEventListener('abort', abort)
    }
  }

  /** Which may be another than was wanted. */
  get version() {
    return this.around.settings.version
  }

  get clientId() {
    return this.around.clientId
  }

  /** Listens to these topics. Returns why the broker does not let us, for those of which that is so. */
  async listen(topics: readonly string[], qos: Qos): Promise<Map<string, Fault>> {
    const refused = new Map<string, Fault>()
    for (let at = 0; at < topics.length; at += filtersAtOnce) {
      const part = topics.slice(at, at + filtersAtOnce)
      const codes = await within(this.around.settings.patience.answer, this.subscribe(part, qos))
      part.forEach((filter, i) => {
        const code = codes[i] ?? 0
        if (code >= 0x80) refused.set(filter, fault('mqtt.filter-refused', { filter, ...this.named(code) }))
      })
    }
    return refused
  }

  async leave(topics: readonly string[]): Promise<void> {
    for (let at = 0; at < topics.length; at += filtersAtOnce)
      await within(this.around.settings.patience.answer, this.client.unsubscribeAsync(topics.slice(at, at + filtersAtOnce)))
  }

  /** Sends a message; resolves once the broker took it, by its quality of service. Rejects with a Fault, or where no answer comes in time. */
  async send(topic: string, payload: string | Uint8Array, { qos, retain, asks }: Sending): Promise<void> {
    const properties = asks ? { properties: { responseTopic: asks.answers, correlationData: Buffer.from(asks.id) } } : {}
    try {
      await within(
        this.around.settings.patience.answer,
        this.client.publishAsync(topic, typeof payload === 'string' ? payload : Buffer.from(payload), { qos, retain, ...properties }),
      )
    } catch (error) {
      if (!(error instanceof ErrorWithReasonCode)) throw error
      const { code, name, words } = this.named(error.code)
      throw fault('mqtt.not-sent', { topic, problem: `${code}, ${name}; ${words}` })
    }
  }

  /** What was asked for got no answer: the connection is no good any more. */
  fail(error: Error) {
    this.end(this.broke(error))
  }

  /** What it means that something got no answer. */
  broke(error: Error): Fault {
    return fault('mqtt.closed', this.around.settings, error.message)
  }

  async close(): Promise<void> {
    this.end(null)
    await within(closeWithinMs, this.client.endAsync()).catch(() => this.client.stream.destroy())
  }

  /** The codes of SUBACK, in the order of the filters. */
  private subscribe(topics: readonly string[], qos: Qos): Promise<number[]> {
    return new Promise((resolve, reject) => {
      this.client.subscribe([...topics], { qos }, (error, granted, packet) => {
        if (packet) resolve(packet.granted as number[])
        else if (error) reject(error)
        else resolve((granted ?? []).map((one) => one.qos))
      })
    })
  }

  private named(code: number) {
    return { code: hexCode(code), ...reasonOf(code) }
  }

  private endedBy({ reasonCode = 0 }: IDisconnectPacket): Fault {
    const { settings, clientId } = this.around
    if (reasonCode === takenOver) return fault('mqtt.taken-over', { ...settings, clientId })
    return fault('mqtt.ended', { ...settings, ...this.named(reasonCode) })
  }
}

const closeWithinMs = 1000

const optionsOf = ({ settings, clientId, credentials }: Pick<Entering, 'settings' | 'clientId' | 'credentials'>): IClientOptions => {
  const { version, session, keepAlive, patience, identity, will } = settings
  return {
    protocolVersion: version === '5' ? 5 : 4,
    clientId,
    clean: !session.keep,
    keepalive: keepAlive,
    connectTimeout: patience.answer,
    // connecting again, and listening again, is the link's own business
    reconnectPeriod: 0,
    resubscribe: false,
    queueQoSZero: false,
    ...(identity.kind === 'password' ? { username: identity.user, password: credentials.password ?? '' } : {}),
    ...(will ? { will: { ...will, payload: Buffer.from(will.payload) } } : {}),
    ...(version === '5' && session.keep ? { properties: { sessionExpiryInterval: session.expiry } } : {}),
  }
}

/** Whether the broker knows our session, once it lets us in; rejects with a Fault where it does not. */
const answered = (client: MqttClient, socket: Duplex, settings: MqttSettings): Promise<boolean> =>
  new Promise((resolve, reject) => {
    const fail = (why: Fault) => reject(why as unknown as Error)
    client.once('connect', ({ sessionPresent }) => resolve(sessionPresent))
    client.once('error', (error) => fail(refusal(error, settings)))
    const closed = () => fail(fault('mqtt.closed', settings, tlsEnding(socket) ?? 'closed right after our CONNECT'))
    client.once('close', closed)
    if (socket.destroyed) closed()
  })

const identityCodes = new Set([2, 4, 5, 0x85, 0x86, 0x87, 0x8a, 0x8c])
const versionCodes = new Set([1, 0x84])
const aboutOf = (code: number) => (identityCodes.has(code) ? 'identity' : 'other')

const isOtherVersion = (why: unknown, { version }: MqttSettings) => version === '5' && isFault(why) && why.code === 'mqtt.version'

const refusal = (error: Error | ErrorWithReasonCode, settings: MqttSettings): Fault => {
  const { host, port, patience } = settings
  if (error instanceof ErrorWithReasonCode) {
    const reason = reasonOf(error.code)
    if (versionCodes.has(error.code))
      return fault(
        'mqtt.version',
        { host, port, version: settings.version === '5' ? '5.0' : '3.1.1', code: hexCode(error.code), name: reason.name },
        error.message,
      )
    return fault('mqtt.refused', { host, port, code: hexCode(error.code), ...reason, about: aboutOf(error.code) }, error.message)
  }
  if (error.message === 'connack timeout') return fault('mqtt.silent', { host, port, ms: patience.answer })
  return brokenFault(error, settings)
}

/** What cannot be read is no packet of MQTT; everything else of this kind ends the connection. */
const brokenFault = (error: Error & { code?: unknown }, settings: MqttSettings): Fault => {
  const { code, message } = error
  if (typeof code === 'number') return fault('mqtt.ended', { ...settings, code: hexCode(code), ...reasonOf(code) }, message)
  if (typeof code === 'string' || message === 'Keepalive timeout') return fault('mqtt.closed', settings, message)
  return fault('mqtt.not-mqtt', { ...settings, problem: message }, message)
}

const giveUp = (client: MqttClient, socket: Duplex) => {
  client.on('error', () => {})
  client.end(true)
  socket.on('error', () => {}).destroy()
}
