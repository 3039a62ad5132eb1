import { fault } from '#core/faults/catalogue'
import { bytesOf, putItem, type Raw } from '#core/iolink/image'
import { quality } from '#core/tags/quality'
import { toRaw } from '#core/tags/scaling'
import type { TagValue } from '#core/tags/types'
import { steadyNow } from '#pacing/clock'
import type { WriteOutcome } from '../driver'
import { expired } from '../writeQueue'
import type { Target } from './item'
import type { Asked } from './master'
import type { SensorPort } from './port'
import { parameterKey } from './parameterRead'
import { qualityOf } from './quality'

type Refused = WriteOutcome & { ok: false }

/** Writes one value: into the whole of the process data, or of a parameter, that it is a part of. */
export const writeTo = async (port: SensorPort, target: Target, value: TagValue, until: number): Promise<WriteOutcome> => {
  const { point, placed } = target
  const { address } = placed
  if (point.access !== 'readwrite' || (address.of !== 'out' && address.of !== 'parameter'))
    return { ok: false, quality: quality.BadNotWritable, fault: fault('write.not-writable', { path: point.path }) }
  const raw = toRaw(value, point.type, point.scaling)
  if (!raw.ok) return refuse(point.path, raw.detail, raw.reason === 'range' ? quality.BadOutOfRange : quality.BadTypeMismatch)
  if (steadyNow() > until) return expired(point.path)
  if (port.fault) return { ok: false, quality: quality.BadNotConnected, fault: port.fault }
  try {
    return address.of === 'out' ? await writeOut(port, target, raw.raw as Raw) : await writeParameter(port, target, raw.raw as Raw)
  } catch (error) {
    if (error instanceof RangeError) return refuse(point.path, error.message, quality.BadOutOfRange)
    throw error
  }
}

const refuse = (path: string, problem: string, code: number): Refused => ({
  ok: false,
  quality: code,
  fault: fault('write.value', { path, problem }),
})

/** Devices take their process data as a whole: what others hold of it stays as the master has it now. */
const writeOut = async (port: SensorPort, target: Target, raw: Raw): Promise<WriteOutcome> => {
  const { address, type } = target.placed
  if (address.of !== 'out') throw new Error('process data out are meant')
  const now = await port.askFor((master, alias) => master.processData(alias))
  if (now?.ok !== true) return failed(port, target, now)
  const told = now.value.setData?.ioLink?.value
  const record = port.description?.processData.find(({ out }) => out !== null)?.out
  const image = told ? Uint8Array.from(told) : record ? new Uint8Array(bytesOf(record)) : null
  if (!image)
    return { ok: false, quality: quality.BadNotSupported, fault: fault('iolink.unwritten', { port: port.number, problem: 'the master does not tell what it sends now' }) } // prettier-ignore
  if (address.bitOffset + address.bits > 8 * image.length)
    return refuse(target.point.path, `the device takes ${image.length} bytes`, quality.BadOutOfRange)
  putItem({ bitOffset: address.bitOffset, type }, raw, image)
  return settled(port, target, await port.askFor((master, alias) => master.setProcessData(alias, image)))
}

const writeParameter = async (port: SensorPort, target: Target, raw: Raw): Promise<WriteOutcome> => {
  const { address, type } = target.placed
  if (address.of !== 'parameter') throw new Error('a parameter is meant')
  const { index, subindex } = address
  const now = await port.askFor((master, alias) => master.parameter(alias, index, subindex))
  if (now?.ok !== true && type.kind !== 'text') return failed(port, target, now)
  const bytes = type.kind === 'text' && address.bits === 0 ? new TextEncoder().encode(String(raw)) : changed(now, target, raw)
  return settled(port, target, await port.askFor((master, alias) => master.setParameter(alias, index, subindex, bytes)))
}

/** What the device has now, with the value in its place. */
const changed = (now: Asked<Uint8Array> | null, { placed: { address, type } }: Target, raw: Raw): Uint8Array => {
  const image = now?.ok ? Uint8Array.from(now.value) : new Uint8Array()
  const own = 'bits' in address && address.bits > 0 ? address : { bitOffset: 0, bits: 8 * image.length }
  if (own.bitOffset + own.bits > 8 * image.length) throw new RangeError(`the device has ${image.length} bytes there`)
  putItem({ bitOffset: own.bitOffset, type: { ...type, bits: own.bits } }, raw, image)
  return image
}

/** What was taken is read back at once. */
const settled = (port: SensorPort, target: Target, sent: Asked<null> | null): WriteOutcome => {
  if (sent?.ok !== true) return failed(port, target, sent)
  const { address } = target.placed
  if (address.of === 'parameter') port.parameters.get(parameterKey(address))?.again()
  else port.again()
  return { ok: true }
}

/** What had left without an answer may have been taken. */
const failed = ({ number, fault: why }: SensorPort, { point: { path } }: Target, asked: Asked<unknown> | null): Refused => {
  if (!asked || asked.ok)
    return { ok: false, quality: quality.BadNotConnected, fault: why ?? fault('iolink.empty', { port: number, words: 'it was unplugged' }) }
  if (asked.code === null && asked.isAway)
    return { ok: false, quality: quality.BadTimeout, fault: fault('write.unknown', { path, problem: asked.why.what }) }
  return { ok: false, quality: asked.code === 314 ? quality.BadOutOfRange : qualityOf(asked), fault: asked.why }
}
