import { fault, type Fault } from '#core/faults/catalogue'
import { confirmed } from '#core/bacnet/apdu'
import { abortMeaning, code, errorMeaning, errorText, reject, rejectMeaning } from '#core/bacnet/codes'
import { stationText, type Station } from '#core/bacnet/frames'
import { decodeRead, encodeRead, type ErrorCode, type PropertyAnswer, type PropertyRef } from '#core/bacnet/services'
import { quality } from '#core/tags/quality'
import type { Ask, Outcome } from './port'

/** What outcomes of requests mean, in the words of the catalogue. */

/** Sends a request to the station that is meant. */
export type Send = (service: number, content: Buffer) => Promise<Outcome>

export interface Meant {
  device: string
  station: Station
  /** What was asked for, as in `analog-value/3`. */
  what: string
}

/** Null: it was done. */
export const outcomeFault = (outcome: Outcome, { device, station, what }: Meant): Fault | null => {
  const place = stationText(station)
  switch (outcome.kind) {
    case 'done':
      return null
    case 'error':
      return errorFault(outcome.error, what)
    case 'reject':
      return fault('bacnet.reject', { what, reason: outcome.reason, ...rejectMeaning(outcome.reason) })
    case 'abort':
      return fault('bacnet.abort', { what, reason: outcome.reason, ...abortMeaning(outcome.reason) })
    case 'silent':
      return fault('bacnet.silent', { device, place, ms: Math.round(outcome.ms), tries: outcome.tries }, outcome.stray)
    case 'malformed':
      return fault('bacnet.malformed', { place, problem: outcome.problem })
    case 'unrouted':
      return fault('bacnet.unrouted', { network: outcome.network, router: `${station.host}:${station.port}` })
    case 'closed':
      return fault('bacnet.not-sent', { device, place, problem: outcome.problem })
    case 'expired':
      return fault('write.expired', { path: what })
  }
}

/** Whether the device has no such service; some say that as an error rather than by refusing the message. */
export const isUnknownService = (outcome: Outcome): boolean =>
  (outcome.kind === 'reject' && outcome.reason === reject.unrecognizedService) ||
  (outcome.kind === 'error' && outcome.error.code === code.unrecognizedService)

export const errorFault = (error: ErrorCode, place: string): Fault =>
  fault('bacnet.error', { place, code: errorText(error), ...errorMeaning(error) })

const qualities: Record<number, number> = {
  [code.unknownObject]: quality.BadConfigurationError,
  [code.unknownProperty]: quality.BadConfigurationError,
  [code.invalidIndex]: quality.BadIndexRangeNoData,
  [code.notAnArray]: quality.BadConfigurationError,
  [code.readAccessDenied]: quality.BadNotReadable,
  [code.accessDenied]: quality.BadUserAccessDenied,
  [code.writeAccessDenied]: quality.BadNotWritable,
  [code.invalidDataType]: quality.BadTypeMismatch,
  [code.valueOutOfRange]: quality.BadOutOfRange,
}

export const qualityOf = ({ code: number }: ErrorCode): number => qualities[number] ?? quality.BadDeviceFailure

/** Reads one property. A fault where nothing usable came. */
export const readOne = async (send: Send, ref: PropertyRef): Promise<{ outcome: Outcome; answer: PropertyAnswer | null }> => {
  const outcome = await send(confirmed.readProperty, encodeRead(ref))
  if (outcome.kind === 'error') return { outcome, answer: { ok: false, error: outcome.error } }
  if (outcome.kind !== 'done') return { outcome, answer: null }
  try {
    return { outcome, answer: decodeRead(outcome.content, ref) }
  } catch (error) {
    return { outcome: { kind: 'malformed', problem: (error as Error).message }, answer: null }
  }
}

export const patienceOf = ({ patience }: { patience: { answer: number; repeats: number } }): Pick<Ask, 'answerMs' | 'repeats'> => ({
  answerMs: patience.answer,
  repeats: patience.repeats,
})
