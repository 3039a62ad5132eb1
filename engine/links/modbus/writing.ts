import { fault, type Fault } from '#core/faults/catalogue'
import { holdsBits } from '#core/modbus/address'
import { encodeRegisters } from '#core/modbus/decoding'
import { exception, exceptionMeaning } from '#core/modbus/exceptions'
import { limits, type Request } from '#core/modbus/pdu'
import type { ModbusSettings } from '#core/modbus/settings'
import { quality } from '#core/tags/quality'
import { toRawScalar } from '#core/tags/scaling'
import type { TagValue } from '#core/tags/types'
import type { WriteOutcome } from '../driver'
import { expired } from '../writeQueue'
import type { Outcome } from './connection'
import type { Lane } from './lane'
import type { PolledPoint } from './readBlock'

/** The requests that carry one write, in order; the last may depend on what the first reads. */
export type PreparedWrite = { ok: true; request: Request } | { ok: false; outcome: WriteOutcome & { ok: false } }

/** Turns a value in engineering units into the request that writes it, or says why it cannot be. */
export const prepareWrite = (point: PolledPoint, value: TagValue, settings: ModbusSettings): PreparedWrite => {
  const unscaled = toRawScalar(value, point.layout.type, point.scaling)
  if (!unscaled.ok) return refuse(point, unscaled.detail, unscaled.reason === 'type' ? quality.BadTypeMismatch : quality.BadOutOfRange)
  if (holdsBits(point.table)) return { ok: true, request: { fc: 5, offset: point.offset, on: unscaled.raw === true } }
  if (point.layout.type === 'bool') return { ok: true, request: maskWrite(point, unscaled.raw === true) }
  try {
    const registers = encodeRegisters(unscaled.raw, point.layout)
    if (registers.length > limits.writeRegisters)
      return refuse(point, `it takes ${registers.length} registers, and a write takes ${limits.writeRegisters}`, quality.BadOutOfRange)
    return { ok: true, request: registerWrite(point.offset, registers, settings) }
  } catch (error) {
    return refuse(point, (error as Error).message, quality.BadOutOfRange)
  }
}

const refuse = (point: PolledPoint, problem: string, code: number): PreparedWrite => ({
  ok: false,
  outcome: { ok: false, quality: code, fault: fault('write.value', { path: point.path, problem }) },
})

const registerWrite = (offset: number, registers: number[], settings: ModbusSettings): Request =>
  registers.length === 1 && settings.writes.function === 'fitting'
    ? { fc: 6, offset, register: registers[0]! }
    : { fc: 16, offset, registers }

/** Function 22 changes one bit without touching its neighbours (clause 6.16). */
const maskWrite = (point: PolledPoint, on: boolean): Request => {
  const mask = 1 << (point.layout.bit ?? 0)
  return { fc: 22, offset: point.offset, andMask: ~mask & 0xffff, orMask: on ? mask : 0 }
}

interface WriteStation {
  lane: Lane
  poller: { unit: number }
  masksBits: boolean | null
}

/**
 * Sends a write. Many devices do not offer function 22, and some do not even answer it: then the
 * register is read, the bit changed and the register written back, which a second writer could
 * come between. What a unit offers is remembered.
 */
export const sendWrite = async (station: WriteStation, point: PolledPoint, request: Request, until: number): Promise<Outcome> => {
  if (request.fc !== 22) return station.lane.write(station.poller.unit, request, until)
  if (station.masksBits === false) return readChangeWrite(station, point, request, until)
  const outcome = await station.lane.write(station.poller.unit, request, until)
  if (outcome.kind === 'reply') station.masksBits = true
  if (station.masksBits || !isNotOffered(outcome)) return outcome
  const changed = await readChangeWrite(station, point, request, until)
  if (changed.kind === 'reply') station.masksBits = false
  return changed
}

const isNotOffered = (outcome: Outcome) =>
  outcome.kind === 'silent' || (outcome.kind === 'exception' && outcome.code === exception.illegalFunction)

const readChangeWrite = async (
  { lane, poller }: WriteStation,
  point: PolledPoint,
  request: Request & { fc: 22 },
  until: number,
): Promise<Outcome> => {
  const read = await lane.write(poller.unit, { fc: 3, offset: point.offset, count: 1 }, until)
  if (read.kind !== 'reply' || !('data' in read.reply)) return read
  const register = (read.reply.data.readUInt16BE(0) & request.andMask) | request.orMask
  return lane.write(poller.unit, { fc: 6, offset: point.offset, register }, until)
}

/** No reply, or none that belongs to the request: then what came instead is the evidence. */
export const silenceFault = (unit: number, ms: number, came: string): Fault =>
  came ? fault('modbus.unusable', { unit, ms, came }) : fault('modbus.silent', { unit, ms }, 'connection open, no bytes came back')

type Failure = Exclude<Outcome, { kind: 'reply' }>
interface Surroundings {
  unit: number
  answerMs: number
  laneFault: Fault | null
  link: string
}

/** The failure of a request in the words of the catalogue, and the quality that goes with it. */
export const failureOf = (outcome: Failure, { unit, answerMs, laneFault, link }: Surroundings): { fault: Fault; quality: number } => {
  switch (outcome.kind) {
    case 'exception': {
      const { name, words, next } = exceptionMeaning(outcome.code)
      return {
        fault: fault('modbus.exception', { unit, code: outcome.code, name, words, next }),
        quality: qualityOfException(outcome.code),
      }
    }
    case 'silent':
      return { fault: silenceFault(unit, answerMs, outcome.came), quality: quality.BadTimeout }
    case 'malformed':
      return { fault: fault('modbus.malformed', { unit, problem: outcome.problem }), quality: quality.BadDeviceFailure }
    case 'obeyed':
    case 'expired':
    case 'closed':
      return { fault: laneFault ?? fault('link.off', { name: link }), quality: quality.BadNotConnected }
  }
}

/** The failure of a write: what had left without an answer may have been taken. */
export const writeFailureOf = (path: string, outcome: Failure, surroundings: Surroundings): WriteOutcome & { ok: false } => {
  if (outcome.kind === 'expired') return expired(path)
  const failure = failureOf(outcome, surroundings)
  const left = outcome.kind === 'silent' || outcome.kind === 'malformed' || (outcome.kind === 'closed' && outcome.sent)
  if (!left) return { ok: false, ...failure }
  const problem =
    outcome.kind === 'silent'
      ? `none within ${surroundings.answerMs} ms`
      : outcome.kind === 'closed'
        ? 'the connection ended'
        : outcome.problem
  return { ok: false, quality: failure.quality, fault: fault('write.unknown', { path, problem }, failure.fault.what) }
}

const qualityOfException = (code: number) => {
  if (code === exception.illegalFunction) return quality.BadNotSupported
  if (code === exception.illegalDataAddress) return quality.BadConfigurationError
  if (code === exception.illegalDataValue) return quality.BadOutOfRange
  return quality.BadDeviceFailure
}
