import { readValues, valueBytes, type AppValue } from './appValue'
import { objectIdBytes, objectIdOf, type ObjectId } from './objectId'
import { Malformed, TagReader, TagWriter } from './tagged'

/** What services ask and say, within their messages (ANSI/ASHRAE 135, clauses 13, 15 and 16). */

export interface PropertyRef {
  object: ObjectId
  property: number
  /** Of an array: 0 its length, from 1 on an element; null: all of it. */
  index: number | null
}

/** The class and the code of an error (clause 18). */
export interface ErrorCode {
  class: number
  code: number
}

export type PropertyAnswer = { ok: true; values: AppValue[]; bytes: number } | { ok: false; error: ErrorCode }

// --- 16.10 Who-Is and I-Am

/** Null: everybody. */
export const encodeWhoIs = (range: { low: number; high: number } | null): Buffer =>
  range ? new TagWriter().contextUnsigned(0, range.low).contextUnsigned(1, range.high).bytes : Buffer.alloc(0)

export interface IAm {
  instance: number
  /** Bytes of one message that it takes. */
  room: number
  segmentation: 'both' | 'transmits' | 'receives' | 'none'
  vendor: number
}

const segmentations = ['both', 'transmits', 'receives', 'none'] as const

/** @throws Malformed */
export const decodeIAm = (content: Buffer): IAm => {
  const [object, room, segmentation, vendor] = readValues(new TagReader(content))
  if (object?.tag !== 'object' || room?.tag !== 'unsigned' || segmentation?.tag !== 'enumerated' || vendor?.tag !== 'unsigned')
    throw new Malformed('an I-Am that does not say who')
  return {
    ...{ instance: object.value.instance, room: Number(room.value), vendor: Number(vendor.value) },
    segmentation: segmentations[segmentation.value] ?? 'none',
  }
}

/** @returns null: everybody is asked */
export const decodeWhoIs = (content: Buffer): { low: number; high: number } | null => {
  if (content.length === 0) return null
  const reader = new TagReader(content)
  return { low: reader.contextUnsigned(0), high: reader.contextUnsigned(1) }
}

// --- 15.5 ReadProperty

export const encodeRead = ({ object, property, index }: PropertyRef): Buffer => {
  const writer = new TagWriter().context(0, objectIdBytes(object)).contextUnsigned(1, property)
  return (index === null ? writer : writer.contextUnsigned(2, index)).bytes
}

/** @throws Malformed, also where it answers another question */
export const decodeRead = (content: Buffer, asked: PropertyRef): PropertyAnswer => {
  const reader = new TagReader(content)
  const object = objectIdOf(reader.context(0).readUInt32BE())
  const property = reader.contextUnsigned(1)
  if (reader.isNext(2)) reader.contextUnsigned(2)
  if (!isSameObject(object, asked.object) || property !== asked.property) throw new Malformed('it answers another question')
  reader.pass(3, 'opening')
  const inner = reader.within(3)
  return { ok: true, bytes: inner.end - inner.at, values: readValues(inner) }
}

/** A device that is asked under the instance that stands for any answers with its own. */
const isSameObject = (a: ObjectId, b: ObjectId) => a.type === b.type && (a.instance === b.instance || b.instance === 0x3fffff)

// --- 15.7 ReadPropertyMultiple

/** Properties of one object after the other share its head. */
export const encodeReadMultiple = (refs: readonly PropertyRef[]): Buffer => {
  const writer = new TagWriter()
  let last: ObjectId | null = null
  for (const { object, property, index } of refs) {
    if (!last || last.type !== object.type || last.instance !== object.instance) {
      if (last) writer.closing(1)
      writer.context(0, objectIdBytes(object)).opening(1)
      last = object
    }
    writer.contextUnsigned(0, property)
    if (index !== null) writer.contextUnsigned(1, index)
  }
  return last ? writer.closing(1).bytes : writer.bytes
}

export interface ReadAnswer {
  ref: PropertyRef
  answer: PropertyAnswer
}

/** @throws Malformed */
export const decodeReadMultiple = (content: Buffer): ReadAnswer[] => {
  const reader = new TagReader(content)
  const answers: ReadAnswer[] = []
  while (!reader.isAtEnd) {
    const object = objectIdOf(reader.context(0).readUInt32BE())
    reader.pass(1, 'opening')
    while (!reader.isNext(1, 'closing')) {
      const property = reader.contextUnsigned(2)
      const index = reader.isNext(3) ? reader.contextUnsigned(3) : null
      answers.push({ ref: { object, property, index }, answer: readAnswer(reader) })
    }
    reader.pass(1, 'closing')
  }
  return answers
}

const readAnswer = (reader: TagReader): PropertyAnswer => {
  if (reader.isNext(4, 'opening')) {
    reader.pass(4, 'opening')
    const inner = reader.within(4)
    return { ok: true, bytes: inner.end - inner.at, values: readValues(inner) }
  }
  reader.pass(5, 'opening')
  return { ok: false, error: errorIn(reader.within(5)) }
}

/** An error as answers hold it (20.1.7); some services wrap it. @throws Malformed */
export const decodeError = (content: Buffer): ErrorCode => {
  const reader = new TagReader(content)
  if (!reader.isNext(0, 'opening')) return errorIn(reader)
  reader.pass(0, 'opening')
  return errorIn(reader.within(0))
}

const errorIn = (reader: TagReader): ErrorCode => {
  const [group, code] = readValues(reader)
  if (group?.tag !== 'enumerated' || code?.tag !== 'enumerated') throw new Malformed('an error that does not say which')
  return { class: group.value, code: code.value }
}

export const errorBytes = ({ class: group, code }: ErrorCode): Buffer =>
  Buffer.concat([valueBytes({ tag: 'enumerated', value: group }), valueBytes({ tag: 'enumerated', value: code })])

// --- 15.9 WriteProperty

/** @param priority 1 to 16; null: none is named, which devices take as 16 */
export const encodeWrite = ({ object, property, index }: PropertyRef, values: readonly AppValue[], priority: number | null): Buffer => {
  const writer = new TagWriter().context(0, objectIdBytes(object)).contextUnsigned(1, property)
  if (index !== null) writer.contextUnsigned(2, index)
  writer.opening(3)
  for (const value of values) writer.raw(valueBytes(value))
  writer.closing(3)
  return (priority === null ? writer : writer.contextUnsigned(4, priority)).bytes
}

// --- 13.14 SubscribeCOV, 13.15 SubscribeCOVProperty

export interface Subscription {
  /** Tells our subscriptions apart (13.14.1.1). */
  process: number
  object: ObjectId
  isConfirmed: boolean
  /** Seconds; 0: for good. */
  lifetime: number
}

export const encodeSubscribe = ({ process, object, isConfirmed, lifetime }: Subscription): Buffer =>
  new TagWriter()
    .contextUnsigned(0, process)
    .context(1, objectIdBytes(object))
    .context(2, Buffer.from([isConfirmed ? 1 : 0]))
    .contextUnsigned(3, lifetime).bytes

/** Without the last two it ends the subscription. */
export const encodeUnsubscribe = ({ process, object }: Pick<Subscription, 'process' | 'object'>): Buffer =>
  new TagWriter().contextUnsigned(0, process).context(1, objectIdBytes(object)).bytes

/** Of one property, with the change that is worth a notification; null: as the object has it. */
export const encodeSubscribeProperty = (
  { process, object, isConfirmed, lifetime }: Subscription,
  { property, index }: Pick<PropertyRef, 'property' | 'index'>,
  increment: number | null,
): Buffer => {
  const writer = new TagWriter()
    .contextUnsigned(0, process)
    .context(1, objectIdBytes(object))
    .context(2, Buffer.from([isConfirmed ? 1 : 0]))
    .contextUnsigned(3, lifetime)
  return referTo(writer, { property, index }, increment).bytes
}

export const encodeUnsubscribeProperty = (
  { process, object }: Pick<Subscription, 'process' | 'object'>,
  { property, index }: Pick<PropertyRef, 'property' | 'index'>,
): Buffer => referTo(new TagWriter().contextUnsigned(0, process).context(1, objectIdBytes(object)), { property, index }, null).bytes

const referTo = (writer: TagWriter, { property, index }: Pick<PropertyRef, 'property' | 'index'>, increment: number | null): TagWriter => {
  writer.opening(4).contextUnsigned(0, property)
  if (index !== null) writer.contextUnsigned(1, index)
  writer.closing(4)
  if (increment === null) return writer
  const real = Buffer.alloc(4)
  real.writeFloatBE(increment)
  return writer.context(5, real)
}

// --- 13.1 and 13.12, notifications of changes

export interface Notification {
  process: number
  /** The device that sends it. */
  device: number
  object: ObjectId
  /** Seconds until it ends. */
  remaining: number
  values: { property: number; index: number | null; values: AppValue[] }[]
}

/** @throws Malformed */
export const decodeNotification = (content: Buffer): Notification => {
  const reader = new TagReader(content)
  const process = reader.contextUnsigned(0)
  const device = objectIdOf(reader.context(1).readUInt32BE()).instance
  const object = objectIdOf(reader.context(2).readUInt32BE())
  const remaining = reader.contextUnsigned(3)
  reader.pass(4, 'opening')
  const list = reader.within(4)
  const values: Notification['values'] = []
  while (!list.isAtEnd) {
    const property = list.contextUnsigned(0)
    const index = list.isNext(1) ? list.contextUnsigned(1) : null
    list.pass(2, 'opening')
    values.push({ property, index, values: readValues(list.within(2)) })
    if (list.isNext(3)) list.context(3)
  }
  return { process, device, object, remaining, values }
}
