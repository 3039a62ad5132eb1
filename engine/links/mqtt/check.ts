import { randomBytes } from 'node:crypto'
import { Socket } from 'node:net'
import type { Duplex } from 'node:stream'
import { type Fault, isFault } from '#core/faults/catalogue'
import { fault } from '#core/faults/catalogue'
import { qosText, type MqttSettings } from '#core/mqtt/settings'
import { within } from '#pacing/within'
import type { CheckStep } from '#shared/status'
import { resolveName } from '../../wire/resolveName'
import { checkSteps } from '../checkSteps'
import type { Wire } from '../../wire/wire'
import type { CheckContext } from '../driver'
import { Broker, type Heard } from './broker'
import { credentialsOf, type Credentials } from './credentials'
import { carried, secured } from './transport'

const { waiting, sound, failed, open, notReached } = checkSteps({
  name: 'Name',
  port: 'Port',
  tls: 'Protection',
  connack: 'Let in',
  listen: 'Listening',
  back: 'A message of ours',
  topics: 'Topics of tags',
})

/** Name, port, CONNACK, SUBACK, and a message of our own that comes back: each with its time and what was seen. */
export async function* checkMqtt(
  settings: MqttSettings,
  signal: AbortSignal,
  { wire, security }: Pick<CheckContext, 'wire' | 'security'>,
): AsyncGenerator<CheckStep> {
  const { host, port, localAddress, patience } = settings
  yield waiting('name')
  const name = await resolveName(host, port, patience.connect)
  if ('fault' in name) {
    yield failed('name', name.fault, name.ms)
    return yield* notReached('name')
  }
  yield sound('name', name.evidence, name.ms)
  if (signal.aborted) return

  yield waiting('port')
  const began = performance.now()
  const pair = credentialsOf(settings, security)
  const isSeen = settings.tls.mode === 'off'
  const socket = await wire
    .dial({ host: name.address, port, localAddress, connectMs: patience.connect, signal, isSeen })
    .catch((why: Fault) => why)
  if (!(socket instanceof Socket)) {
    yield failed('port', socket, performance.now() - began)
    return yield* notReached('port')
  }
  yield sound('port', `TCP ${port} open`, performance.now() - began)
  const stream = yield* protectedOver(socket, settings, pair.pair)
  if (stream) yield* letIn(stream, settings, pair, { signal, wire })
}

/** TLS and websocket, as far as they are wanted; null where one of them failed. */
async function* protectedOver(socket: Socket, settings: MqttSettings, pair: Credentials['pair']): AsyncGenerator<CheckStep, Duplex | null> {
  yield waiting('tls')
  let shown: Pick<CheckStep, 'farSide'> = {}
  const began = performance.now()
  try {
    const { stream, agreed } = await secured(socket, settings, pair, (certificate) => (shown = { farSide: { certificate } }))
    const over = await carried(stream, settings)
    const websocket = settings.over === 'websocket' ? `websocket at ${settings.path}` : ''
    if (agreed === null && websocket === '') yield open('tls', 'off', 'none, as it is set to')
    else yield sound('tls', [agreed, websocket].filter(Boolean).join('; '), performance.now() - began, shown)
    return over
  } catch (why) {
    yield failed(
      'tls',
      isFault(why) ? why : fault('ours.unexpected', { problem: (why as Error).message }),
      performance.now() - began,
      shown,
    )
    yield* notReached('tls')
    return null
  }
}

async function* letIn(
  stream: Duplex,
  settings: MqttSettings,
  credentials: Credentials,
  { signal, wire }: { signal: AbortSignal; wire: Wire },
): AsyncGenerator<CheckStep> {
  yield waiting('connack')
  const hearing = new Hearing()
  // another client id than the link's own: the broker would end one for the other; and no word of ours when it ends
  const clientId = `conduit-check-${randomBytes(4).toString('hex')}`
  const entering = { settings: { ...settings, will: null }, clientId, credentials, signal, heard: hearing.heard }
  let broker = await Broker.greet(stream, entering).catch((why: Fault) => why)
  if ('code' in broker && broker.code === 'mqtt.version' && settings.version === '5')
    broker = await Broker.enter({ ...entering, wire, settings: { ...entering.settings, version: '3.1.1' } }).catch((why: Fault) => why)
  if (!(broker instanceof Broker)) {
    yield failed('connack', broker, null)
    return yield* notReached('connack')
  }
  try {
    yield sound('connack', `as ${clientId}, ${versionText(broker, settings)}`, broker.ms)
    yield* ownMessage(broker, settings, hearing)
  } finally {
    await broker.close()
  }
}

/** What came of the topics that tags want: a broker may take a subscription and keep back every message of it. */
export const topicsStep = (topics: readonly { name: string; hasCome: boolean }[]): CheckStep => {
  const silent = topics.filter(({ hasCome }) => !hasCome).map(({ name }) => name)
  if (topics.length === 0) return open('topics', 'off', 'no tag listens yet')
  if (silent.length === 0) return sound('topics', `something came on each of ${topics.length}`, null)
  const named = `${silent.slice(0, 3).join(', ')}${silent.length > 3 ? ` and ${silent.length - 3} more` : ''}`
  const why = 'nobody sent since the link connected, or the broker keeps it back because of our rights'
  return open('topics', 'waiting', `nothing came on ${named}: ${why}`)
}

const versionText = ({ version }: Broker, settings: MqttSettings) =>
  `MQTT ${version}${version === settings.version ? '' : ', as the broker does not speak 5.0'}`

/** Over a connection that stands already, beside what goes over it. */
export async function* checkConnected(broker: Broker, settings: MqttSettings, hearing: Hearing): AsyncGenerator<CheckStep> {
  yield sound('name', `the link is connected to ${settings.host}:${settings.port}`, null)
  yield sound('port', 'open; looked at over the connection of the link, which goes on', null)
  if (settings.tls.mode === 'off' && settings.over === 'tcp') yield open('tls', 'off', 'none, as it is set to')
  else yield sound('tls', 'stands', null)
  yield sound('connack', `as ${broker.clientId}, ${versionText(broker, settings)}`, broker.ms)
  yield* ownMessage(broker, settings, hearing)
}

async function* ownMessage(broker: Broker, settings: MqttSettings, hearing: Hearing): AsyncGenerator<CheckStep> {
  const { answer } = settings.patience
  const topic = `conduit/check/${randomBytes(6).toString('hex')}`
  yield waiting('listen')
  const [began, back] = [performance.now(), hearing.next(topic)]
  try {
    const refused = (await broker.listen([topic], settings.reading.qos)).get(topic)
    if (refused) {
      yield open('listen', 'waiting', `not to ${topic}: ${refused.what} Other topics may be allowed.`)
      return yield* notReached('listen')
    }
    yield sound('listen', `to ${topic}, QoS ${settings.reading.qos}, ${qosText[settings.reading.qos]}`, performance.now() - began)
    yield waiting('back')
    const sentAt = performance.now()
    await broker.send(topic, 'check', { qos: settings.writes.qos, retain: false })
    const isBack = await within(answer, back).then(
      () => true,
      () => false,
    )
    const ms = performance.now() - sentAt
    if (isBack) yield sound('back', `sent to ${topic}, and came back`, ms)
    else yield failed('back', fault('mqtt.swallowed', { topic, ms: answer }), ms)
  } catch (why) {
    yield failed('back', faultOf(why, settings), null)
  } finally {
    await broker.leave([topic]).catch(() => {})
  }
}

const faultOf = (why: unknown, settings: MqttSettings): Fault =>
  why instanceof Error ? fault('mqtt.closed', settings, why.message) : (why as Fault)

/** Waits for messages by their topics. */
export class Hearing {
  private wanted = new Map<string, () => void>()

  readonly heard = ({ topic }: Pick<Heard, 'topic'>) => this.wanted.get(topic)?.()

  next(topic: string): Promise<void> {
    return new Promise((resolve) => this.wanted.set(topic, resolve))
  }
}
