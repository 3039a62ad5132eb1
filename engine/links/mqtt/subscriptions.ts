import type { Fault } from '#core/faults/catalogue'
import { covers } from '#core/mqtt/topic'
import type { Qos } from '#core/mqtt/settings'
import type { Broker } from './broker'

interface Around {
  /** Topics of tags, and the quality of service that they are listened to with. */
  topics(): string[]
  qos(): Qos
  /** Whether the broker lets us listen to it; null: it does. */
  noted(name: string, why: Fault | null): void
}

/**
 * What we listen to at a broker: topics of tags, and filters of bridges. A broker may hand on a message once for each that
 * it goes by, so what a filter covers is not listened to by itself.
 */
export class Subscriptions {
  private broker: Broker | null = null
  private filters = new Map<string, Qos>()
  /** What the broker has of us. */
  private held = new Set<string>()
  /** Filters that the broker refused: they cover nothing. */
  private refused = new Set<string>()
  private work: Promise<void> = Promise.resolve()

  constructor(private around: Around) {}

  /** A connection that knows nothing of us, or none. */
  use(broker: Broker | null) {
    this.broker = broker
    this.held.clear()
    this.refused.clear()
    if (broker) this.settle([])
  }

  setFilters(filters: readonly { filter: string; qos: Qos }[]) {
    this.filters = new Map()
    for (const { filter, qos } of filters) this.filters.set(filter, Math.max(qos, this.filters.get(filter) ?? 0) as Qos)
    this.settle([])
  }

  get filterCount() {
    return this.filters.size
  }

  /** Brings the broker to what is wanted. What is new wants the message that the broker kept, though a filter may cover it. */
  settle(fresh: readonly string[]) {
    this.later(async (broker) => {
      const wanted = this.wanted()
      const asked = [...wanted.keys()].filter((name) => !this.held.has(name))
      const passing = fresh.filter((name) => !wanted.has(name) && this.around.topics().includes(name))
      await this.listen(broker, [...asked, ...passing], wanted)
      const gone = [...this.held].filter((name) => !wanted.has(name))
      for (const name of gone) this.held.delete(name)
      await broker.leave([...gone, ...passing])
      if (asked.some((name) => this.refused.has(name))) this.settle([])
    })
  }

  /** All of it anew, with another quality of service. */
  again() {
    this.held.clear()
    this.settle([])
  }

  private async listen(broker: Broker, names: readonly string[], wanted: ReadonlyMap<string, Qos>) {
    for (const qos of [0, 1, 2] as const) {
      const of = names.filter((name) => (wanted.get(name) ?? this.around.qos()) === qos)
      if (of.length === 0) continue
      const refused = await broker.listen(of, qos)
      for (const name of of) {
        const why = refused.get(name) ?? null
        if (wanted.has(name)) this.held.add(name)
        if (why && this.filters.has(name)) this.refused.add(name)
        this.around.noted(name, why)
      }
    }
  }

  /** The fewest names that bring everything. */
  private wanted(): Map<string, Qos> {
    const filters = [...this.filters].filter(([filter]) => !this.refused.has(filter))
    const names = new Map<string, Qos>(this.around.topics().map((topic) => [topic, this.around.qos()]))
    for (const [filter, qos] of this.filters) names.set(filter, Math.max(qos, names.get(filter) ?? 0) as Qos)
    for (const name of names.keys())
      if (filters.some(([filter]) => filter !== name && covers(filter, name) && !(covers(name, filter) && filter > name)))
        names.delete(name)
    return names
  }

  /** One after the other; what cannot be asked for ends the connection, and the next one is asked anew. */
  private later(work: (broker: Broker) => Promise<void>) {
    this.work = this.work.then(async () => {
      const { broker } = this
      if (broker) await work(broker).catch((error: Error) => broker.fail(error))
    })
  }
}
