import { fault } from '#core/faults/catalogue'
import { readCall } from '#core/http/call'
import { requestOf, type Request } from '#core/http/operation'
import type { HttpSettings } from '#core/http/settings'
import type { PointDefinition } from '#core/links/protocol'
import { Payload } from '#core/messages/payload'
import { outlineOf } from '#core/messages/shown'
import { usualOdd } from '#core/tags/odd'
import type { ValueOrigin } from '#shared/values'
import { type Answer, CallFailure } from './caller'
import { answerStages } from './origin'
import { targetOf } from './targets'

/** Makes a call once, and tells what a point makes of the answer; with an outline of it where none was kept as the example. */
export const tryCall = async (
  make: (request: Request) => Promise<Answer>,
  { operations }: HttpSettings,
  definition: PointDefinition,
): Promise<ValueOrigin> => {
  const { address: text } = definition
  const origin = (why: ValueOrigin['fault'], stages: ValueOrigin['stages'] = []): ValueOrigin => ({
    stages,
    readings: [],
    wordsFrom: text,
    goesTo: [],
    fault: why,
  })
  const read = readCall(text)
  const operation = read.ok ? operations.find(({ name }) => name === read.call.operation) : undefined
  if (!read.ok || !operation) return origin(fault('http.call', { call: text, problem: 'there is no such operation' }))
  const target = targetOf({ ...definition, handle: -1, path: text, interval: null, scaling: null, odd: usualOdd })
  try {
    const answer = await make(requestOf(operation, read.call.given))
    const payload = Payload.judged(answer.body)
    const told = target.read(payload)
    return {
      ...origin(told.ok ? null : fault('http.unfit', { call: text, problem: told.problem }), answerStages(answer, target)),
      outline: operation.example === '' ? outlineOf(payload) : undefined,
    }
  } catch (error) {
    return origin(error instanceof CallFailure ? error.why : fault('http.call', { call: text, problem: (error as Error).message }))
  }
}
