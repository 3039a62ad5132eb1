import { fault, type Fault } from '#core/faults/catalogue'
import type { PointDefinition } from '#core/links/protocol'
import { Payload } from '#core/messages/payload'
import { outlineOf } from '#core/messages/shown'
import type { MqttSettings } from '#core/mqtt/settings'
import { usualOdd } from '#core/tags/odd'
import { within } from '#pacing/within'
import type { ValueOrigin } from '#shared/values'
import type { Arrival } from '../../arrivals/arrival'
import type { Broker } from './broker'
import { stagesOf } from './origin'
import { targetOf } from './topics'

/** Waits for the next message on a topic, which a broker that kept one gives at once, and tells what a point makes of it. */
export const tryOn = async (
  broker: Broker,
  settings: MqttSettings,
  definition: PointDefinition,
  hear: (topic: string, take: (arrival: Arrival) => void) => () => void,
): Promise<ValueOrigin> => {
  const { address: topic } = definition
  const target = targetOf({ ...definition, handle: -1, path: topic, interval: null, scaling: null, odd: usualOdd }, settings)
  const origin = (why: Fault | null, arrival?: Arrival): ValueOrigin => ({
    ...{ stages: arrival ? stagesOf(arrival, target) : [], readings: [], wordsFrom: topic, goesTo: [] },
    ...{ fault: why, outline: arrival && outlineOf(new Payload(arrival.payload)) },
  })
  let letGo = () => {}
  try {
    const next = new Promise<Arrival>((resolve) => (letGo = hear(topic, resolve)))
    const refused = (await broker.listen([topic], settings.reading.qos)).get(topic)
    if (refused) return origin(refused)
    const { answer } = settings.patience
    const arrival = await within(answer, next).catch(() => null)
    if (!arrival) return origin(fault('mqtt.nothing-yet', { topic, ms: answer }))
    return origin(unfit(arrival, target, topic), arrival)
  } finally {
    letGo()
  }
}

const unfit = (arrival: Arrival, { read }: ReturnType<typeof targetOf>, topic: string): Fault | null => {
  const told = read(new Payload(arrival.payload))
  return told.ok ? null : fault('mqtt.unfit', { topic, problem: told.problem })
}
