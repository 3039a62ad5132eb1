import type { Fault } from '#core/faults/catalogue'
import { fault } from '#core/faults/catalogue'
import { Payload, readerFor, type Reader } from '#core/messages/payload'
import type { MqttPointOptions, MqttSettings } from '#core/mqtt/settings'
import { oddJudge, type OddJudge } from '#core/tags/odd'
import { quality } from '#core/tags/quality'
import type { Arrival } from '../../arrivals/arrival'
import { deliver } from '../../table/deliver'
import type { SampleSink } from '../../table/intake'
import type { Handle } from '../../table/tagTable'
import type { Point } from '../driver'

/** One tag that lives in the messages of a topic. */
export interface Target {
  point: Point
  read: Reader
  odd: OddJudge | null
  /** Whether messages say when their value was made. */
  isTimed: boolean
  /** After so long without a message it is uncertain, ms; null: never. */
  age: number | null
  /** Why the last message was no value of it. */
  problem: Fault | null
}

/** A topic that tags want, and what came on it last. */
export interface Topic {
  name: string
  targets: Map<Handle, Target>
  /** Why the broker does not let us listen to it. */
  refused: Fault | null
  last: Arrival | null
  letGo(): void
}

/** Builds what a point goes by. Throws where its path cannot be read: such a point is refused before it is saved. */
export const targetOf = (point: Point, { reading }: MqttSettings): Target => {
  const { path = '', time = '', age, bytes } = point.options as MqttPointOptions
  return {
    point,
    read: readerFor({ type: point.type, path, time, bytes }),
    odd: oddJudge(point.type, point.odd),
    isTimed: time !== '',
    age: age ?? reading.age,
    problem: null,
  }
}

/** Gives a message to all tags of its topic; it is looked into once. @returns those that took it */
export const take = (topic: Topic, arrival: Arrival, retained: MqttSettings['reading']['retained'], into: SampleSink): Target[] => {
  topic.last = arrival
  const payload = new Payload(arrival.payload)
  return [...topic.targets.values()].filter((target) => takeOne(target, topic.name, arrival, payload, retained, into))
}

/** What came last on a topic, for a tag that joins it. @returns whether it took it */
export const takeLast = (
  topic: Topic,
  last: Arrival,
  target: Target,
  retained: MqttSettings['reading']['retained'],
  into: SampleSink,
): boolean => takeOne(target, topic.name, last, new Payload(last.payload), retained, into)

const takeOne = (
  target: Target,
  topic: string,
  arrival: Arrival,
  payload: Payload,
  retained: MqttSettings['reading']['retained'],
  into: SampleSink,
): boolean => {
  const told = target.read(payload)
  if (!told.ok) {
    target.problem = fault('mqtt.unfit', { topic, problem: told.problem })
    into.degrade(target.point.handle, quality.BadTypeMismatch, arrival.at)
    return false
  }
  target.problem = null
  // a message that the broker kept may be of any age, unless it says when it was made
  const isOld = arrival.retained === true && !target.isTimed && retained === 'uncertain'
  const code = isOld ? quality.UncertainLastUsableValue : quality.Good
  deliver(into, target.point, target.odd, told.value, code, arrival.at, told.sourceTime ?? arrival.at)
  return true
}
