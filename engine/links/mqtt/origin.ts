import { formOf, previewOf } from '#core/messages/form'
import { Payload } from '#core/messages/payload'
import type { MqttPointOptions } from '#core/mqtt/settings'
import { valueText } from '#core/text/number'
import type { ValueOrigin, ValueStage } from '#shared/values'
import type { Arrival } from '../../arrivals/arrival'
import type { SampleSink } from '../../table/intake'
import { madeStages, passedStage } from '../stages'
import type { Target, Topic } from './topics'

/** Tells how a value is made: from the message that came last to what consumers get. */
export const originOf = (topic: Topic, target: Target, table: SampleSink): ValueOrigin => {
  const { point, problem } = target
  const stages = topic.last ? stagesOf(topic.last, target) : []
  if (topic.last && !problem) stages.push(passedStage(point.handle, point.type, point.scaling, table))
  return { stages, readings: [], wordsFrom: topic.name, goesTo: [], fault: topic.refused ?? problem }
}

/** From the message to the value; only the message where it is none of the point. */
export const stagesOf = (
  { payload, at, retained }: Arrival,
  { point, read, odd }: Pick<Target, 'point' | 'read' | 'odd'>,
): ValueStage[] => {
  const told = read(new Payload(payload))
  const kept = retained ? ', kept by the broker for those who come later' : ''
  const message: ValueStage = {
    title: 'Message',
    text: previewOf(payload),
    detail: `${formOf(payload)}, ${payload.length.toLocaleString('en-GB')} bytes${kept}, came at`,
    at,
  }
  if (!told.ok) return [message]
  const { path = '', bytes } = point.options as MqttPointOptions
  const where = bytes ? `from byte ${bytes.at}` : path === '' ? 'the whole payload' : `at ${path}`
  return [
    message,
    { title: `Read as ${point.type}`, text: valueText(told.value, point.type), detail: where },
    ...madeStages({ scaling: point.scaling, odd }, told.value),
  ]
}
