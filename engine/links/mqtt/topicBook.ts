import type { Handle } from '../../table/tagTable'
import type { Target, Topic } from './topics'

/** All topics that tags of a link want, by name and by tag. */
export class TopicBook {
  private topics = new Map<string, Topic>()
  private byHandle = new Map<Handle, Topic>()

  /** @param claim asks for the messages of a topic; returns how to let go of them */
  constructor(private claim: (topic: Topic) => () => void) {}

  get size() {
    return this.topics.size
  }

  has(name: string): boolean {
    return this.topics.has(name)
  }

  get(name: string): Topic | undefined {
    return this.topics.get(name)
  }

  names(): string[] {
    return [...this.topics.keys()]
  }

  all(): IterableIterator<Topic> {
    return this.topics.values()
  }

  handles(): IterableIterator<Handle> {
    return this.byHandle.keys()
  }

  topicOf(handle: Handle): Topic | undefined {
    return this.byHandle.get(handle)
  }

  target(handle: Handle): Target | undefined {
    return this.byHandle.get(handle)?.targets.get(handle)
  }

  targets(): Target[] {
    return [...this.topics.values()].flatMap(({ targets }) => [...targets.values()])
  }

  /** Places a tag, which has been taken out before. */
  place(target: Target): Topic {
    const { address, handle } = target.point
    const topic = this.topics.get(address) ?? this.make(address)
    topic.targets.set(handle, target)
    this.byHandle.set(handle, topic)
    return topic
  }

  remove(handle: Handle) {
    this.byHandle.get(handle)?.targets.delete(handle)
    this.byHandle.delete(handle)
  }

  /** Lets go of the topics that no tag wants any more; returns their names. */
  dropUnwanted(): string[] {
    const unwanted = [...this.topics.values()].filter(({ targets }) => targets.size === 0)
    for (const topic of unwanted) this.drop(topic)
    return unwanted.map(({ name }) => name)
  }

  close() {
    for (const topic of [...this.topics.values()]) this.drop(topic)
    this.byHandle.clear()
  }

  private drop(topic: Topic) {
    topic.letGo()
    this.topics.delete(topic.name)
  }

  private make(name: string): Topic {
    const topic: Topic = { name, targets: new Map(), refused: null, last: null, letGo: () => {} }
    topic.letGo = this.claim(topic)
    this.topics.set(name, topic)
    return topic
  }
}
