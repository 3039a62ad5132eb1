import { fault, type Fault } from '#core/faults/catalogue'
import type { HttpPointOptions } from '#core/http/settings'
import { Payload, readerFor, type Reader } from '#core/messages/payload'
import { oddJudge, type OddJudge } from '#core/tags/odd'
import { quality } from '#core/tags/quality'
import { deliver } from '../../table/deliver'
import type { SampleSink } from '../../table/intake'
import type { Point } from '../driver'
import type { Answer } from './caller'

/** One tag that lives in the answers to a call. */
export interface Target {
  point: Point
  read: Reader
  odd: OddJudge | null
  /** Why the last answer was no value of it. */
  problem: Fault | null
}

/** Throws where its path cannot be read: such a point is refused before it is saved. */
export const targetOf = (point: Point): Target => {
  const { path = '', time = '' } = point.options as HttpPointOptions
  return { point, read: readerFor({ type: point.type, path, time }), odd: oddJudge(point.type, point.odd), problem: null }
}

/** Gives an answer to all tags that asked for it; it is looked into once. @returns how many it was no value for */
export const takeAnswer = (targets: Iterable<Target>, call: string, { body, at }: Answer, into: SampleSink): number => {
  const payload = Payload.judged(body)
  let unfit = 0
  for (const target of targets) if (!takeOne(target, call, payload, at, into)) unfit++
  return unfit
}

const takeOne = (target: Target, call: string, payload: Payload, at: number, into: SampleSink): boolean => {
  const told = target.read(payload)
  if (!told.ok) {
    target.problem = fault('http.unfit', { call, problem: told.problem })
    into.degrade(target.point.handle, quality.BadTypeMismatch, at)
    return false
  }
  target.problem = null
  deliver(into, target.point, target.odd, told.value, quality.Good, at, told.sourceTime ?? at)
  return true
}

/** What a call that came to nothing means for the values of its tags. */
export const qualityAfter = (status: number | null, why: Fault): number => {
  if (status === 401 || status === 403) return quality.BadUserAccessDenied
  if (status === 404 || status === 410) return quality.BadNoData
  // it is there, and will answer another time: what it said last is no longer fresh
  if (status === 429 || status === 503) return quality.UncertainLastUsableValue
  if (status !== null && status >= 500) return quality.BadDeviceFailure
  if (status !== null && status >= 400) return quality.BadConfigurationError
  return why.code === 'http.silent' || why.code === 'tcp.no-answer' ? quality.BadTimeout : quality.BadNoCommunication
}
