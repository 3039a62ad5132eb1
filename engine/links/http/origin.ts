import { formOf, previewOf } from '#core/messages/form'
import type { HttpPointOptions } from '#core/http/settings'
import { Payload } from '#core/messages/payload'
import { valueText } from '#core/text/number'
import type { ValueOrigin, ValueStage } from '#shared/values'
import type { SampleSink } from '../../table/intake'
import { madeStages, passedStage } from '../stages'
import type { Answer } from './caller'
import type { PolledCall } from './polledCall'
import type { Target } from './targets'

/** Tells how a value is made: from the answer that came last to what consumers get. */
export const originOf = (call: PolledCall, target: Target, table: SampleSink): ValueOrigin => {
  const { point, problem } = target
  const stages = call.last ? answerStages(call.last, target) : []
  if (call.last && !problem) stages.push(passedStage(point.handle, point.type, point.scaling, table))
  return { stages, readings: [], wordsFrom: call.text, goesTo: [], fault: call.fault ?? problem }
}

/** From the answer to the value; only the answer where it is none of the point. */
export const answerStages = (
  { body, at, ms, status }: Answer,
  { point, read, odd }: Pick<Target, 'point' | 'read' | 'odd'>,
): ValueStage[] => {
  const told = read(Payload.judged(body))
  const answer: ValueStage = {
    title: 'Answer',
    text: previewOf(body),
    detail: `status ${status}, ${formOf(body)}, ${body.length.toLocaleString('en-GB')} bytes, after ${Math.round(ms)} ms, came at`,
    at,
  }
  if (!told.ok) return [answer]
  const { path = '' } = point.options as HttpPointOptions
  return [
    answer,
    { title: `Read as ${point.type}`, text: valueText(told.value, point.type), detail: path === '' ? 'the whole answer' : `at ${path}` },
    ...madeStages({ scaling: point.scaling, odd }, told.value),
  ]
}
