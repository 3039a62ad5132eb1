import { DecayingRate } from '#core/messages/decayingRate'
import { formOf, type PayloadForm } from '#core/messages/form'
import { Payload } from '#core/messages/payload'

/** So many topics are remembered; later ones are counted. */
const mostTopics = 20_000
/** So much of a payload is kept, bytes: enough to see its parts. */
const mostKept = 64 * 1024

export interface HeardTopic {
  topic: string
  last: Uint8Array
  bytes: number
  at: number
  rate: DecayingRate
}

/** Topics that were heard while somebody listens, with the last message of each. */
export class HeardTopics {
  private topics = new Map<string, HeardTopic>()
  /** Messages on topics beyond those that are remembered. */
  beyond = 0

  note(topic: string, payload: Uint8Array) {
    const known = this.topics.get(topic)
    if (!known && this.topics.size >= mostTopics) return void this.beyond++
    const heard = known ?? { topic, last: new Uint8Array(), bytes: 0, at: 0, rate: new DecayingRate() }
    heard.rate.count(performance.now())
    heard.last = new Uint8Array(payload.subarray(0, mostKept))
    heard.bytes = payload.length
    heard.at = Date.now()
    if (!known) this.topics.set(topic, heard)
  }

  get size() {
    return this.topics.size
  }

  of(topic: string): HeardTopic | undefined {
    return this.topics.get(topic)
  }

  /** The levels directly below a prefix, and whether something is below each. */
  levels(prefix: string): { name: string; topic: string; heard: HeardTopic | undefined; hasBelow: boolean }[] {
    const begin = prefix === '' ? '' : `${prefix}/`
    const below = new Map<string, boolean>()
    for (const topic of this.topics.keys()) {
      if (!topic.startsWith(begin)) continue
      const rest = topic.slice(begin.length)
      const at = rest.indexOf('/')
      const name = at < 0 ? rest : rest.slice(0, at)
      below.set(name, (below.get(name) ?? false) || at >= 0)
    }
    return [...below]
      .map(([name, hasBelow]) => ({ name, topic: begin + name, heard: this.topics.get(begin + name), hasBelow }))
      .sort((a, b) => a.name.localeCompare(b.name, 'en', { numeric: true }))
  }

  /** Itself and all below. */
  below(prefix: string): HeardTopic[] {
    const begin = prefix === '' ? '' : `${prefix}/`
    return [...this.topics.values()].filter(({ topic }) => topic === prefix || topic.startsWith(begin))
  }
}

/** What the last message holds, as JSON has it; undefined: it is none, or more than is looked into. */
export const jsonIn = ({ last, bytes }: HeardTopic): unknown => {
  if (last.length < bytes) return undefined
  const form = formOf(last)
  if (form === 'binary' || form === 'empty') return undefined
  const { json, text } = new Payload(last)
  return json.ok ? json.value : text.ok ? text.value : undefined
}

export const formHeard = ({ last, bytes }: HeardTopic): PayloadForm => formOf(last, last.length === bytes)
