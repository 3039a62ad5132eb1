import { startBroker } from '../support/mqttBroker'
import type { Chance } from './chance'

/** One sample as the plant had it. */
export interface Made {
  topic: string
  at: number
  value: number
}

interface Sent extends Made {
  /** When the engine said that it has it; null: it never did. */
  ackedAt: number | null
}

/** An acknowledgement that was sent before a kill may be read after it. */
const onTheWayMs = 1000
/** What was acknowledged so short before a kill may not have been on disk. */
const shortlyMs = 2000

/**
 * A plant behind a broker that nobody harms. It knows what it sent, and what of that was acknowledged; whatever may not have
 * arrived it sends again when everything is over, as devices do that keep what they measured.
 */
export class Source {
  /** The last that was sent of each topic and time: that is what holds. */
  readonly sent = new Map<string, Sent>()
  /** How often each topic and time went out: a broker repeats what nobody acknowledged before a break. */
  readonly times = new Map<string, number>()
  private kills: number[] = []

  private constructor(
    private broker: Awaited<ReturnType<typeof startBroker>>,
    private chance: Chance,
  ) {
    broker.broker.authorizeForward = (_, packet) => {
      this.count(packet.topic, String(packet.payload))
      return packet
    }
    broker.broker.on('ack', (packet) => {
      const { topic, payload } = ((packet as unknown) ?? {}) as { topic?: string; payload?: Buffer }
      if (topic && payload) this.acked(topic, payload.toString())
    })
  }

  static async start(chance: Chance) {
    return new Source(await startBroker(), chance)
  }

  get port() {
    return this.broker.port
  }

  killed() {
    this.kills.push(Date.now())
  }

  cut() {
    this.broker.drop()
  }

  async stop() {
    await this.broker.stop()
  }

  async send({ topic, at, value }: Made) {
    const key = keyOf(topic, at)
    this.sent.set(key, { topic, at, value, ackedAt: null })
    await this.broker.publish(topic, JSON.stringify({ t: new Date(at).toISOString(), v: value }), { qos: 1 })
  }

  /** Of one topic, in the order of their times. */
  of(topic: string): Sent[] {
    return [...this.sent.values()].filter((one) => one.topic === topic).sort((a, b) => a.at - b.at)
  }

  /** Whether it has to be there, whatever happened since. */
  isSafe({ ackedAt }: Sent): boolean {
    return ackedAt !== null && !this.kills.some((kill) => kill - ackedAt > -onTheWayMs && kill - ackedAt < shortlyMs)
  }

  /** Sends again what may not have arrived, in any order. */
  async sendDoubtful(): Promise<number> {
    const doubtful = [...this.sent.values()].filter((one) => !this.isSafe(one))
    for (let i = doubtful.length - 1; i > 0; i--) {
      const other = this.chance.whole(0, i)
      ;[doubtful[i], doubtful[other]] = [doubtful[other]!, doubtful[i]!]
    }
    this.kills = []
    for (const one of doubtful) await this.send(one)
    return doubtful.length
  }

  private count(topic: string, payload: string) {
    if (!payload.startsWith('{"t"')) return
    const key = keyOf(topic, Date.parse((JSON.parse(payload) as { t: string }).t))
    this.times.set(key, (this.times.get(key) ?? 0) + 1)
  }

  private acked(topic: string, payload: string) {
    const { t, v } = JSON.parse(payload) as { t: string; v: number }
    const one = this.sent.get(keyOf(topic, Date.parse(t)))
    if (one?.value === v) one.ackedAt = Date.now()
  }
}

export const keyOf = (topic: string, at: number) => `${topic} ${at}`
