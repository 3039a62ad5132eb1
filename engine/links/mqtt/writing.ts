import { fault, type Fault, isFault } from '#core/faults/catalogue'
import type { MqttPointOptions, MqttSettings } from '#core/mqtt/settings'
import { writtenPayload } from '#core/mqtt/writing'
import { quality } from '#core/tags/quality'
import { toRaw } from '#core/tags/scaling'
import type { TagValue } from '#core/tags/types'
import type { Point, WriteOutcome } from '../driver'
import type { Broker } from './broker'

/** Sends what is to be written to a tag to its topic, in the form that the tag asks for. */
export const writeTo = async (
  broker: Broker | Fault,
  point: Point,
  value: TagValue,
  how: MqttSettings['writes'],
): Promise<WriteOutcome> => {
  const raw = toRaw(value, point.type, point.scaling)
  if (!raw.ok)
    return {
      ok: false,
      quality: raw.reason === 'type' ? quality.BadTypeMismatch : quality.BadOutOfRange,
      fault: fault('write.value', { path: point.path, problem: raw.detail }),
    }
  if (isFault(broker)) return { ok: false, quality: quality.BadNotConnected, fault: broker }
  const options = point.options as MqttPointOptions
  return sent(broker, point, options.setTopic ?? point.address, writtenPayload(raw.raw, point.type, options, Date.now()), how)
}

const sent = async (
  broker: Broker,
  { path }: Point,
  topic: string,
  payload: string | Uint8Array,
  how: MqttSettings['writes'],
): Promise<WriteOutcome> => {
  try {
    await broker.send(topic, payload, how)
    return { ok: true }
  } catch (why) {
    if (isFault(why)) return { ok: false, quality: quality.BadUserAccessDenied, fault: why }
    return { ok: false, quality: quality.BadTimeout, fault: fault('write.unknown', { path, problem: (why as Error).message }) }
  }
}
