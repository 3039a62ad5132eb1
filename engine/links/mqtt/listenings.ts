import type { HeardTopics, HeardTopic } from './heardTopics'
import { Listening } from './listening'

/** So many people look around with filters of their own at a time; who looked longest ago gives way. */
const most = 4

/** Everybody who looks around on a link: each filter is listened to by itself, and what was heard of all of them is looked into together. */
export class Listenings {
  /** By their filters, who looked last at the end. */
  private all = new Map<string, Listening>()

  constructor(private around: ConstructorParameters<typeof Listening>[0]) {}

  /** Listens to a filter, and gives what is heard of it. Rejects with the reason of the broker. */
  async to(filter: string, waitMs: number): Promise<HeardTopics> {
    const listening = this.all.get(filter) ?? new Listening(this.around)
    this.all.delete(filter)
    this.all.set(filter, listening)
    if (this.all.size > most) await this.giveWay()
    try {
      await listening.to(filter, waitMs)
    } catch (error) {
      this.all.delete(filter)
      void listening.close()
      throw error
    }
    return listening.heard
  }

  /** Somebody still looks. */
  stay() {
    for (const listening of this.all.values()) listening.stay()
  }

  of(topic: string): HeardTopic | undefined {
    return this.each((heard) => heard.of(topic)).at(-1)
  }

  levels(prefix: string): ReturnType<HeardTopics['levels']> {
    const merged = new Map<string, ReturnType<HeardTopics['levels']>[number]>()
    for (const level of this.each((heard) => heard.levels(prefix)).flat()) {
      const known = merged.get(level.name)
      merged.set(level.name, known ? { ...level, heard: level.heard ?? known.heard, hasBelow: level.hasBelow || known.hasBelow } : level)
    }
    return [...merged.values()].sort((a, b) => a.name.localeCompare(b.name, 'en', { numeric: true }))
  }

  below(prefix: string): HeardTopic[] {
    const topics = this.each((heard) => heard.below(prefix)).flat()
    return [...new Map(topics.map((heard) => [heard.topic, heard])).values()]
  }

  async close() {
    await Promise.all([...this.all.values()].map((listening) => listening.close()))
  }

  private each<T>(look: (heard: HeardTopics) => T | undefined): T[] {
    return [...this.all.values()].flatMap(({ heard }) => look(heard) ?? [])
  }

  private async giveWay() {
    const [oldest] = this.all
    if (!oldest) return
    this.all.delete(oldest[0])
    await oldest[1].close()
  }
}
