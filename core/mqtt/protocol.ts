import type { AddressFacts, FieldProblem, PointDefinition, Protocol } from '../links/protocol'
import type { Spot } from '../notes/spot'
import { dataTypes, type DataType } from '../tags/types'
import { mqttFrames } from '../wire/frames'
import { mqttColumns } from './columns'
import { whyNotKept } from './keeping'
import type { Layout } from '../messages/layout'
import { mqttLoad } from './load'
import { pathProblem } from '../messages/payload'
import { mqttReference } from './reference'
import type { MqttPointOptions, MqttSettings } from './settings'
import { topicProblem } from './topic'

const describe = (text: string): AddressFacts => {
  const topic = text.trim()
  const problem = topicProblem(topic)
  if (problem) return { ok: false, problem }
  return {
    ok: true,
    canonical: topic,
    notations: [{ label: 'levels', text: topic.split('/').join(' › ') }],
    note: null,
    types: dataTypes,
    defaultType: 'float64',
    writable: true,
    unit: null,
  }
}

const optionsOf = (point: PointDefinition) => point.options as MqttPointOptions

const problems = (point: PointDefinition): FieldProblem[] => {
  const topic = topicProblem(point.address)
  if (topic) return [{ field: 'address', message: topic }]
  const { path = '', time = '' } = optionsOf(point)
  return [problemAt('path', path), problemAt('time', time), bytesProblem(point), intervalProblem(point)].filter(
    (problem) => problem !== null,
  )
}

const problemAt = (field: 'path' | 'time', path: string): FieldProblem | null => {
  const message = pathProblem(path)
  return message === null ? null : { field: `options.${field}`, message }
}

const bytesProblem = (point: PointDefinition): FieldProblem | null => {
  const { path, time, bytes } = optionsOf(point)
  if (!bytes) return null
  if (point.type === 'string[]') return { field: 'type', message: 'Among bytes nothing tells one text from the next.' }
  if (!path && !time) return null
  return { field: 'options.path', message: 'Bytes have no parts that a path could lead to; leave it empty.' }
}

const intervalProblem = ({ interval }: PointDefinition): FieldProblem | null =>
  interval == null ? null : { field: 'interval', message: 'Messages come when the sender sends them; leave it empty.' }

const bytesText = ({ at, order, bit }: Layout) =>
  `byte ${at}${bit === undefined ? '' : `.${bit}`}${order === 'little' ? ', little-endian' : ''}`

/** Two tags may take the same out of a message; that is worth a note. */
const spot = (point: PointDefinition): Spot => {
  const { path = '', bytes } = optionsOf(point)
  const inside = bytes ? bytesText(bytes) : path
  const address = inside === '' ? point.address : `${point.address} ${inside}`
  return { place: address, from: 0, to: 1, bit: null, reading: point.type, address }
}

const optionsText = (point: PointDefinition): string => {
  const { path = '', setTopic, bytes } = optionsOf(point)
  return [bytes ? bytesText(bytes) : path, setTopic ? `set by ${setTopic}` : ''].filter(Boolean).join(' ')
}

const optionsFor = (_type: DataType, options: Readonly<Record<string, unknown>>) => options

/** The last two levels tell a topic from its neighbours. */
const shortAddress = (topic: string) => {
  const levels = topic.split('/')
  return levels.length <= 2 ? topic : `…/${levels.slice(-2).join('/')}`
}

export const mqtt: Protocol = {
  kind: 'mqtt',
  title: 'MQTT',
  subtitle: 'Sensors and applications that send messages by way of a broker',
  capabilities: { browse: true, read: false, watch: true, write: true, publish: true, messages: true, tap: true, receives: 'topic' },
  frames: mqttFrames,
  place: (settings) => `${(settings as MqttSettings).host}:${(settings as MqttSettings).port}`,
  goal: (settings) => {
    const { host, port, tls } = settings as MqttSettings
    return { speaks: 'MQTT', host, port, carries: 'tcp', usualPort: tls.mode === 'off' ? 1883 : 8883, isEncrypted: tls.mode !== 'off' }
  },
  interval: () => null,
  describe,
  isPassing: () => false,
  problems,
  spot,
  load: mqttLoad,
  next: () => null,
  onUnit: () => null,
  shortAddress,
  reference: (settings) => mqttReference(settings as MqttSettings),
  words: null,
  optionsText,
  leanOptions: (options) => options,
  whyNotKept: (before, after) => whyNotKept(before as MqttSettings, after as MqttSettings),
  columns: mqttColumns,
  optionsFor,
}
