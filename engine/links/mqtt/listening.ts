import { randomBytes } from 'node:crypto'
import { filterProblem } from '#core/mqtt/topic'
import { fault, type Fault } from '#core/faults/catalogue'
import { steadyNow } from '#pacing/clock'
import { LookingFault } from '../looking'
import { Broker, type Entering } from './broker'
import { HeardTopics } from './heardTopics'

/** When nobody looked for so long, nobody listens any more. */
const leaseMs = 60_000
const quietLookMs = 50

/**
 * Listens to a filter for somebody who looks around, over a connection of its own: what the link hears, and when, stays as
 * it is. It ends by itself once nobody looks.
 */
export class Listening {
  heard = new HeardTopics()
  private filter: string | null = null
  private broker: Broker | null = null
  /** Somebody else has it begin just now. */
  private beginning: Promise<void> | null = null
  private lease: NodeJS.Timeout | null = null
  private closed = false

  constructor(private around: () => Pick<Entering, 'settings' | 'credentials' | 'wire'>) {}

  /** Listens from now on, and waits a little for what comes at once. Rejects with the reason of the broker. */
  async to(filter: string, waitMs: number): Promise<void> {
    const problem = filterProblem(filter)
    if (problem) throw new LookingFault(fault('mqtt.no-filter', { filter, problem }))
    this.stay()
    if (this.filter === filter && (this.broker || this.beginning)) return this.beginning ?? undefined
    this.filter = filter
    const beginning = this.begin(filter, waitMs).finally(() => {
      if (this.beginning === beginning) this.beginning = null
    })
    return (this.beginning = beginning)
  }

  private async begin(filter: string, waitMs: number): Promise<void> {
    await this.end()
    this.heard = new HeardTopics()
    const broker = await this.open(filter)
    // another look may have begun meanwhile
    if (this.filter !== filter || this.closed) return void broker.close()
    this.broker = broker
    void broker.ended.then(() => {
      if (this.broker === broker) this.broker = null
    })
    this.stay()
    await this.firstOnes(waitMs)
  }

  /** Somebody still looks. */
  stay() {
    if (this.lease) clearTimeout(this.lease)
    this.lease = setTimeout(() => void this.end(), leaseMs)
    this.lease.unref()
  }

  async close() {
    this.closed = true
    await this.end()
  }

  /** What was heard stays to be looked at. */
  private async end() {
    if (this.lease) clearTimeout(this.lease)
    this.lease = null
    const { broker } = this
    this.broker = null
    await broker?.close()
  }

  private async open(filter: string): Promise<Broker> {
    const { settings, ...rest } = this.around()
    const { heard } = this
    const entering: Entering = {
      ...rest,
      settings: { ...settings, session: { ...settings.session, keep: false }, will: null },
      // another client id than the link's own: the broker would end one for the other
      clientId: `conduit-look-${randomBytes(4).toString('hex')}`,
      signal: AbortSignal.timeout(settings.patience.connect + settings.patience.answer),
      heard: ({ topic, payload }) => heard.note(topic, payload),
    }
    const broker = await Broker.enter(entering).catch((why: Fault) => {
      throw new LookingFault(why)
    })
    const refused = (await broker.listen([filter], 0)).get(filter)
    if (!refused) return broker
    await broker.close()
    throw new LookingFault(refused)
  }

  /** Until nothing new comes for a moment, or the time is over. */
  private async firstOnes(waitMs: number) {
    const end = steadyNow() + waitMs
    let [known, since] = [0, steadyNow()]
    while (steadyNow() < end) {
      await new Promise((resolve) => setTimeout(resolve, quietLookMs))
      if (this.heard.size !== known) [known, since] = [this.heard.size, steadyNow()]
      else if (known > 0 && steadyNow() - since > 4 * quietLookMs) return
    }
  }
}
