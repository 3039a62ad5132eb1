import type { PlainNode, PlainSpace } from './space'
import { Writer, type Reader } from './bytes'
import type { Habits } from './plainServer'
import { status } from './status'
import { writeDataValue, type WireDataValue } from './values'

const dataChangeFilter = 'i=724'
const dataChangeNotification = 'i=811'

interface Watched {
  id: number
  nodeId: string
  clientHandle: number
  /** Absolute deadband; 0: none. */
  deadband: number
  told: WireDataValue | null
  /** How many values wait at most, and those that wait: every one that was set, each with its time. */
  most: number
  queue: { value: WireDataValue; at: number }[]
}

interface Subscription {
  id: number
  interval: number
  keepAlive: number
  quiet: number
  sequence: number
  items: Map<number, Watched>
  timer: NodeJS.Timeout
}

/** A Publish request that waits for something to tell (OPC 10000-4, 5.14.5). */
type Waiting = (body: Buffer) => void

/** The subscriptions of one session. */
export class Subscriptions {
  private all = new Map<number, Subscription>()
  private waiting: Waiting[] = []
  private lastId = 0

  constructor(
    private space: PlainSpace,
    private habits: Habits,
  ) {
    space.onSet.add(this.note)
  }

  create(reader: Reader): Buffer | number {
    if (this.all.size >= this.habits.subscriptions) return status.BadTooManySubscriptions
    const interval = Math.max(20, reader.double())
    const [lifetime, keepAlive] = [reader.uint32(), reader.uint32()]
    const id = ++this.lastId
    const timer = setInterval(() => this.publish(subscription), interval)
    const subscription: Subscription = { id, interval, keepAlive, quiet: keepAlive, sequence: 1, items: new Map(), timer }
    this.all.set(id, subscription)
    return new Writer().uint32(id).double(interval).uint32(lifetime).uint32(keepAlive).done()
  }

  /** @returns the results, or the status that refuses the whole request. */
  watch(reader: Reader): Buffer | number {
    const subscription = this.all.get(reader.uint32())
    reader.uint32()
    const wanted = reader.list(() => requested(reader))
    if (!subscription) return status.BadSubscriptionIdInvalid
    if (wanted.length > this.habits.takes.items) return status.BadTooManyOperations
    const writer = new Writer().list(wanted, (item, writer) => this.add(subscription, item, writer))
    return writer.none().done()
  }

  private add(subscription: Subscription, { nodeId, clientHandle, filter, most }: Requested, writer: Writer) {
    const id = ++this.lastId
    const code = this.refusalOf(nodeId, filter)
    if (code === status.Good)
      subscription.items.set(id, { id, nodeId, clientHandle, deadband: filter?.deadband ?? 0, told: null, most, queue: [] })
    writer
      .uint32(code)
      .uint32(code === status.Good ? id : 0)
      .double(subscription.interval)
      .uint32(most)
      .nodeId('i=0')
      .bytes(0)
  }

  private refusalOf(nodeId: string, filter: Filter | null): number {
    if (!this.space.find(nodeId) && this.space.read(nodeId, 13).status !== status.Good) return status.BadNodeIdUnknown
    return filter && filter.deadbandType > 0 && this.habits.refusesFilters ? status.BadMonitoredItemFilterUnsupported : status.Good
  }

  unwatch(reader: Reader): Buffer {
    const subscription = this.all.get(reader.uint32())
    const ids = reader.list(() => reader.uint32())
    const writer = new Writer().list(ids, (id, writer) =>
      writer.uint32(subscription?.items.delete(id) ? status.Good : status.BadNodeIdUnknown),
    )
    return writer.none().done()
  }

  remove(reader: Reader): Buffer {
    const ids = reader.list(() => reader.uint32())
    const writer = new Writer().list(ids, (id, writer) => writer.uint32(this.end(id) ? status.Good : status.BadSubscriptionIdInvalid))
    return writer.none().done()
  }

  setPublishing(reader: Reader): Buffer {
    reader.bool()
    const writer = new Writer().list(
      reader.list(() => reader.uint32()),
      (_, writer) => writer.uint32(status.Good),
    )
    return writer.none().done()
  }

  ask(reply: Waiting) {
    this.waiting.push(reply)
  }

  /** Of items that keep more than one value; at the limit the oldest goes. */
  private note = (node: PlainNode) => {
    for (const { items } of this.all.values())
      for (const item of items.values()) {
        if (item.most < 2 || this.space.find(item.nodeId) !== node) continue
        item.queue.push({ value: structuredClone(this.space.read(item.nodeId, 13)), at: Date.now() })
        if (item.queue.length > item.most) item.queue.shift()
      }
  }

  close() {
    this.space.onSet.delete(this.note)
    for (const id of [...this.all.keys()]) this.end(id)
    this.waiting = []
  }

  private end(id: number): boolean {
    clearInterval(this.all.get(id)?.timer)
    return this.all.delete(id)
  }

  private publish(subscription: Subscription) {
    if (this.habits.silentIntervals.includes(subscription.interval)) return
    const changed = [...subscription.items.values()].filter((item) => this.hasChanged(item))
    subscription.quiet++
    if (changed.length === 0 && subscription.quiet < subscription.keepAlive) return
    const reply = this.waiting.shift()
    if (!reply) return
    subscription.quiet = 0
    reply(this.message(subscription, changed))
  }

  private hasChanged(item: Watched): boolean {
    if (item.queue.length > 0) return true
    const now = this.space.read(item.nodeId, 13)
    return !item.told || now.status !== item.told.status || differs(now.variant?.value, item.told.variant?.value, item.deadband)
  }

  /** PublishResponse; a message without notifications is a sign of life, whose number the next one uses. */
  private message(subscription: Subscription, changed: readonly Watched[]): Buffer {
    const { id, sequence } = subscription
    const writer = new Writer()
      .uint32(id)
      .list([], () => {})
      .bool(false)
      .uint32(sequence)
      .time(Date.now())
    if (changed.length === 0) return writer.none().none().none().done()
    subscription.sequence++
    const told = changed.flatMap((item) => {
      const queued = item.queue.splice(0)
      item.told = structuredClone(this.space.read(item.nodeId, 13))
      return (queued.length > 0 ? queued : [{ value: item.told, at: Date.now() }]).map((one) => ({ item, ...one }))
    })
    const data = new Writer().list(told, ({ item, value, at }, data) => {
      data.uint32(item.clientHandle)
      writeDataValue(data, value, at)
    })
    writer.uint32(1).nodeId(dataChangeNotification).bytes(1).byteString(data.none().done())
    return writer.none().none().done()
  }
}

interface Filter {
  deadbandType: number
  deadband: number
}
interface Requested {
  nodeId: string
  clientHandle: number
  filter: Filter | null
  most: number
}

const requested = (reader: Reader): Requested => {
  const nodeId = reader.nodeId()
  reader.uint32()
  reader.string()
  reader.qualifiedName()
  reader.uint32()
  const clientHandle = reader.uint32()
  reader.double()
  const { type, body } = reader.extension()
  const most = Math.max(1, reader.uint32())
  reader.bool()
  return { nodeId, clientHandle, filter: type === dataChangeFilter && body ? filterIn(body) : null, most }
}

const filterIn = (body: Reader): Filter => {
  body.uint32()
  return { deadbandType: body.uint32(), deadband: body.double() }
}

const differs = (a: unknown, b: unknown, deadband: number) =>
  typeof a === 'number' && typeof b === 'number' && deadband > 0
    ? Math.abs(a - b) > deadband
    : JSON.stringify(a, bigintText) !== JSON.stringify(b, bigintText)

const bigintText = (_: string, value: unknown) => (typeof value === 'bigint' ? String(value) : value)
