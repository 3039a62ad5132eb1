import { randomUUID } from 'node:crypto'
import { promisify } from 'node:util'
import { gunzip as gunzipWith, gzip as gzipWith } from 'node:zlib'
import { z } from 'zod'
import { platformModel, stepResult, takenValues } from '#core/cloud/entries'
import { fault, isFault, type Fault } from '#core/faults/catalogue'
import { mqttSettings, type MqttSettings } from '#core/mqtt/settings'
import type { MqttWay } from '#shared/outlets/cloudPlatform'
import { within } from '#pacing/within'
import { Broker, type Heard } from '../../../links/mqtt/broker'
import { credentialsOf, type Credentials } from '../../../links/mqtt/credentials'
import { PlatformFailure, type Platform, type PlatformContext } from '../platform'

const gzip = promisify(gzipWith)
const gunzip = promisify(gunzipWith)
const stepResults = z.object({ results: z.array(stepResult) })
/** What an answer is packed in: as far as HTTP has words for it, its status says how it went (RFC 9110, 15). */
const envelope = z.object({
  status: z.int(),
  after: z.number().nullable().default(null).describe('So long it wants to be left alone, ms.'),
  detail: z.string().max(1000).default(''),
  at: z.number().nullable().default(null).describe('Its clock.'),
  answer: z.unknown(),
})
const mostAnswer = 16 * 1024 * 1024

/**
 * A platform that takes JSON over MQTT 5, packed with gzip: requests with a response topic and correlation data (MQTT 5.0, 4.10),
 * each published with QoS 1.
 */
export const mqttPlatform = (way: MqttWay, context: PlatformContext): Platform => new MqttPlatform(way, context)

class MqttPlatform implements Platform {
  clockAhead: number | null = null
  private settings: MqttSettings
  private credentials: Credentials
  private clientId: string
  private base: string
  private connecting: Promise<Broker> | null = null
  private broker: Broker | null = null
  private ending = new AbortController()
  private waiting = new Map<string, { resolve(payload: Buffer): void; reject(why: Fault): void }>()

  constructor(
    private way: MqttWay,
    private context: PlatformContext,
  ) {
    this.settings = mqttSettings.parse({ ...way, version: '5' })
    this.credentials = credentialsOf(this.settings, context.security)
    this.clientId = way.clientId || `conduit-${randomUUID().slice(0, 8)}`
    this.base = `${way.root}/${context.site}`
  }

  model(signal: AbortSignal) {
    return this.ask(platformModel, 'model', {}, signal)
  }

  async apply(steps: readonly unknown[], signal: AbortSignal) {
    return (await this.ask(stepResults, 'model/steps', { steps }, signal)).results
  }

  send(parcels: readonly unknown[], signal: AbortSignal) {
    return this.ask(takenValues, 'values', { parcels }, signal)
  }

  async close() {
    this.ending.abort()
    await this.broker?.close()
  }

  private get place() {
    return `${this.way.host}:${this.way.port}`
  }

  private get answers() {
    return `${this.base}/answers/${this.clientId}`
  }

  private async ask<T>(contract: z.ZodType<T>, topic: string, body: object, signal: AbortSignal): Promise<T> {
    const payload = await gzip(JSON.stringify(body))
    const answer = await this.exchange(topic, payload, signal).catch((why: unknown) => {
      throw why instanceof PlatformFailure ? why : new PlatformFailure(asFault(why))
    })
    return this.read(contract, answer)
  }

  private async exchange(topic: string, payload: Buffer, signal: AbortSignal): Promise<Buffer> {
    const broker = await this.connected()
    const id = randomUUID()
    const { answer: ms } = this.settings.patience
    try {
      const answered = new Promise<Buffer>((resolve, reject) => {
        this.waiting.set(id, { resolve, reject: (why) => reject(why as unknown as Error) })
        signal.addEventListener('abort', () => reject(new Error('stopped')), { once: true })
      })
      // where sending fails nobody waits for the answer
      answered.catch(() => {})
      const asks = { answers: this.answers, id }
      await broker.send(`${this.base}/${topic}`, payload, { qos: 1, retain: false, asks }).catch((error: unknown) => {
        throw isFault(error) ? error : broker.broke(error as Error)
      })
      return await within(ms, answered, () => new PlatformFailure(fault('cloud.silent', { place: this.place, ms })))
    } finally {
      this.waiting.delete(id)
    }
  }

  /** One connection at a time; rejects with a Fault. */
  private async connected(): Promise<Broker> {
    if (this.broker) return this.broker
    this.connecting ??= this.enter().finally(() => (this.connecting = null))
    return this.connecting
  }

  private async enter(): Promise<Broker> {
    const { settings, credentials, clientId } = this
    const signal = this.ending.signal
    const broker = await Broker.enter({ settings, credentials, clientId, wire: this.context.wire, signal, heard: (one) => this.heard(one) })
    const refused = await broker.listen([this.answers], 1).catch((error: Error) => {
      void broker.close()
      throw broker.broke(error) as unknown as Error
    })
    const [why] = refused.values()
    if (why) {
      void broker.close()
      throw why as unknown as Error
    }
    this.broker = broker
    void broker.ended.then((ended) => this.lost(broker, ended))
    return broker
  }

  private lost(broker: Broker, why: Fault | null) {
    if (this.broker === broker) this.broker = null
    for (const { reject } of this.waiting.values()) reject(why ?? fault('mqtt.closed', this.settings))
    void broker.close()
  }

  private heard({ payload, correlation }: Heard) {
    const id = correlation?.toString('utf8') ?? ''
    this.waiting.get(id)?.resolve(payload)
  }

  private async read<T>(contract: z.ZodType<T>, payload: Buffer): Promise<T> {
    const { place } = this
    const unreadable = (problem: string) => new PlatformFailure(fault('cloud.answer', { place, problem }))
    const { status, after, detail, at, answer } = await gunzip(payload, { maxOutputLength: mostAnswer })
      .then((bytes) => envelope.parse(JSON.parse(bytes.toString('utf8'))))
      .catch((error: Error) => {
        throw unreadable(error.message)
      })
    if (at !== null) this.clockAhead = Math.abs(at - Date.now()) < 1000 ? 0 : Math.round(at - Date.now())
    if (status === 401 || status === 403) throw new PlatformFailure(fault('cloud.token', { place, status, words: detail }))
    if (status === 413) throw new PlatformFailure(fault('cloud.too-large', { place }), { isTooLarge: true })
    if (status === 429 || status === 503) throw new PlatformFailure(fault('cloud.throttled', { place }, detail), { after })
    if (status >= 400) throw new PlatformFailure(fault('cloud.answer', { place, problem: `status ${status}: ${detail}` }))
    const read = contract.safeParse(answer)
    if (!read.success) throw unreadable(`${read.error.issues[0]!.path.join('.')}: ${read.error.issues[0]!.message}`)
    return read.data
  }
}

const asFault = (why: unknown): Fault => (isFault(why) ? why : fault('ours.unexpected', { problem: (why as Error).message }))
