import { fault, type Fault } from '#core/faults/catalogue'
import { refText } from '#core/bacnet/address'
import { confirmed } from '#core/bacnet/apdu'
import type { AppValue } from '#core/bacnet/appValue'
import { toApp } from '#core/bacnet/conversion'
import { isCommandable } from '#core/bacnet/point'
import { prop } from '#core/bacnet/property'
import { encodeWrite } from '#core/bacnet/services'
import type { AppTagName } from '#core/bacnet/tagged'
import { quality } from '#core/tags/quality'
import { toRaw } from '#core/tags/scaling'
import { elementOf, isArrayValue, type DataType, type ScalarType, type ScalarValue, type TagValue } from '#core/tags/types'
import type { WriteOutcome } from '../driver'
import { expired } from '../writeQueue'
import { outcomeFault, qualityOf } from './asking'
import type { Device } from './device'
import type { Item, Target } from './item'
import type { Outcome } from './port'

type Refused = WriteOutcome & { ok: false }
type Prepared = { ok: true; values: AppValue[] } | { ok: false; outcome: Refused }

/** As what a value goes where neither the standard nor the device has said so. */
const usualTag = (type: ScalarType): AppTagName => {
  if (type === 'bool') return 'boolean'
  if (type === 'string') return 'text'
  if (type === 'float64') return 'double'
  if (type === 'datetime') return 'date'
  return type === 'float32' ? 'real' : type.startsWith('u') ? 'unsigned' : 'signed'
}

/** What the property is on the wire: as it came last, else by the standard, else by the tag's type. */
export const wireTag = ({ last, placed }: Pick<Item, 'last' | 'placed'>, type: DataType): AppTagName => {
  const seen = last?.values[0]?.tag
  if (seen && seen !== 'null' && seen !== 'constructed') return seen
  return placed.tag ?? usualTag(elementOf(type))
}

/** Turns a value in engineering units into what is written, or says why it cannot be. */
export const prepareWrite = (item: Item, { point }: Target, value: TagValue): Prepared => {
  const element = elementOf(point.type)
  const isArray = point.type !== element
  if (isArray !== isArrayValue(value))
    return refuse(point.path, isArray ? 'an array is wanted' : 'a single value is wanted', quality.BadTypeMismatch)
  const unscaled = isArrayValue(value) ? value.map((one) => toRaw(one, element, null)) : [toRaw(value, element, point.scaling)]
  const raw: ScalarValue[] = []
  for (const one of unscaled) {
    if (!one.ok) return refuse(point.path, one.detail, one.reason === 'type' ? quality.BadTypeMismatch : quality.BadOutOfRange)
    raw.push(one.raw as ScalarValue)
  }
  try {
    return { ok: true, values: toApp(isArray ? raw : raw[0]!, wireTag(item, point.type)) }
  } catch (error) {
    return refuse(point.path, (error as Error).message, quality.BadOutOfRange)
  }
}

const refuse = (path: string, problem: string, code: number): Prepared => ({
  ok: false,
  outcome: { ok: false, quality: code, fault: fault('write.value', { path, problem }) },
})

const headBytes = 30

/** Writes at the priority of the tag, where what is written goes by priorities. Null values give it back. */
export const writeTo = async (
  device: Device,
  item: Item,
  target: Target,
  values: readonly AppValue[],
  until: number,
): Promise<WriteOutcome> => {
  const { located } = device
  const { path } = target.point
  if (!located) return { ok: false, quality: quality.BadNotConnected, fault: device.lane.fault ?? notThere(device) }
  const { ref } = item
  const priority = isCommandable({ device: device.instance, ...ref }) ? target.placed.priority : null
  const content = encodeWrite(ref, values, priority)
  const room = located.room - headBytes
  if (content.length > room)
    return { ok: false, quality: quality.BadOutOfRange, fault: fault('bacnet.too-long', { place: refText(ref), bytes: content.length, room }) } // prettier-ignore
  const outcome = await device.lane.write(confirmed.writeProperty, content, until)
  return outcome.kind === 'done' ? { ok: true } : failureOf(outcome, device, item, path)
}

const notThere = ({ instance }: Device): Fault => fault('bacnet.not-found', { device: instance, ways: 'it is looked for', ms: 0 })

/** What had left without an answer may have been taken. */
const failureOf = (outcome: Outcome, { instance, lane }: Device, { ref }: Item, path: string): Refused => {
  if (outcome.kind === 'expired') return expired(path)
  if (!lane.located) return unknown(path, lane.fault?.what ?? 'the device went away')
  const why = outcomeFault(outcome, { device: String(instance), station: lane.located.station, what: refText(ref) })!
  if (outcome.kind === 'error') return { ok: false, quality: qualityOf(outcome.error), fault: why }
  if (outcome.kind === 'silent' || outcome.kind === 'malformed' || outcome.kind === 'closed') return unknown(path, why.what)
  return { ok: false, quality: quality.BadDeviceFailure, fault: why }
}

const unknown = (path: string, problem: string): Refused => ({
  ok: false,
  quality: quality.BadTimeout,
  fault: fault('write.unknown', { path, problem }),
})

/** Whether tags of it can be given back: what is written there goes by priorities. */
export const goesByPriorities = (device: number, { ref }: Pick<Item, 'ref'>) =>
  ref.property === prop.presentValue && isCommandable({ device, ...ref })
