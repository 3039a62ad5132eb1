import { DecayingRate } from '#core/messages/decayingRate'
import { formOf, previewOf } from '#core/messages/form'
import type { UnclaimedStatus } from '#shared/arrivals'
import type { Arrival } from './arrival'

/** So many topics are remembered; of one that comes when it is full, the one that was silent longest gives way. */
const mostTopics = 500
const mostShown = 200
/** So much of the last payload is kept, bytes. */
const mostKept = 16 * 1024

interface Seen {
  count: number
  rate: DecayingRate
  last: Uint8Array
  bytes: number
  at: number
}

/** Messages that nobody claims: what comes costs a look-up, and only who asks for the list pays for looking into it. */
export class Unclaimed {
  /** In the order in which they came last. */
  private topics = new Map<string, Seen>()
  private gaveWay = 0

  note({ topic, payload, at }: Arrival) {
    const known = this.topics.get(topic)
    const seen = known ?? this.begin()
    seen.count++
    seen.rate.count(performance.now())
    // a copy: the payload may be a part of a much larger buffer
    seen.last = new Uint8Array(payload.subarray(0, mostKept))
    seen.bytes = payload.length
    seen.at = at
    if (known) this.topics.delete(topic)
    this.topics.set(topic, seen)
  }

  forget(isClaimed: (topic: string) => boolean) {
    for (const topic of this.topics.keys()) if (isClaimed(topic)) this.topics.delete(topic)
  }

  list(): UnclaimedStatus {
    const now = performance.now()
    const topics = [...this.topics]
      .map(([topic, { count, rate, last, bytes, at }]) => ({ topic, count, perSecond: rate.perSecond(now), last, bytes, at }))
      .sort((a, b) => b.perSecond - a.perSecond || a.topic.localeCompare(b.topic))
      .slice(0, mostShown)
      .map(({ last, ...seen }) => ({ ...seen, form: formOf(last, last.length === seen.bytes), last: previewOf(last) }))
    return { topics, count: this.topics.size, gaveWay: this.gaveWay }
  }

  private begin(): Seen {
    if (this.topics.size >= mostTopics) {
      this.topics.delete(this.topics.keys().next().value!)
      this.gaveWay++
    }
    return { count: 0, rate: new DecayingRate(), last: new Uint8Array(), bytes: 0, at: 0 }
  }
}
