import { previewOf, formOf } from '#core/messages/form'
import type { MqttPointOptions } from '#core/mqtt/settings'
import { Payload } from '#core/mqtt/payload'
import { valueText } from '#core/text/number'
import type { ValueOrigin, ValueStage } from '#shared/values'
import type { SampleSink } from '../../table/intake'
import { madeStages, passedStage } from '../stages'
import type { Target, Topic } from './topics'

/** Tells how a value is made: from the message that came last to what consumers get. */
export const originOf = (topic: Topic, target: Target, table: SampleSink): ValueOrigin => {
  const { point } = target
  const nothing = { readings: [], wordsFrom: topic.name, goesTo: [], fault: topic.refused ?? target.problem }
  if (!topic.last) return { ...nothing, stages: [] }
  const { payload, at, retained } = topic.last
  const told = target.read(new Payload(payload))
  const message: ValueStage = {
    title: 'Message',
    text: previewOf(payload),
    detail: `${formOf(payload)}, ${payload.length.toLocaleString('en-GB')} bytes${retained ? ', kept by the broker for those who come later' : ''}, came at`,
    at,
  }
  if (!told.ok) return { ...nothing, stages: [message] }
  const { path = '' } = point.options as MqttPointOptions
  return {
    ...nothing,
    stages: [
      message,
      { title: `Read as ${point.type}`, text: valueText(told.value, point.type), detail: path === '' ? 'the whole payload' : `at ${path}` },
      ...madeStages({ scaling: point.scaling, odd: target.odd }, told.value),
      passedStage(point.handle, point.type, point.scaling, table),
    ],
  }
}
