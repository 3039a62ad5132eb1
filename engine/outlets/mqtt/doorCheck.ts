import { randomBytes } from 'node:crypto'
import { connect } from 'node:net'
import type { Duplex } from 'node:stream'
import { connect as connectTls } from 'node:tls'
import { ErrorWithReasonCode, MqttClient } from 'mqtt'
import { createWebSocketStream, WebSocket } from 'ws'
import { judge } from '#core/certificates/judge'
import { fault, type Fault } from '#core/faults/catalogue'
import { tcpFault } from '#core/faults/tcp'
import { hostText } from '#core/opcua/endpointAddress'
import { schemeOf, type BrokerDoor } from '#shared/outlets/mqttBroker'
import type { DoorStatus } from '#shared/outlets/doorStatus'
import type { CheckStep } from '#shared/status'
import { within } from '#pacing/within'
import type { OwnCertificate } from '#security/ownCertificate'
import { checkSteps } from '../../links/checkSteps'
import type { Wire } from '../../wire/wire'
import { hostOf } from '../doors/place'
import { doorTitles, outsideTitle, walkToDoor } from '../doors/walkToDoor'

const steps = checkSteps({ ...doorTitles, secured: 'Secured', answer: 'Answer', ...outsideTitle })
const { waiting, sound, failed, open, notReached } = steps
const patience = { connect: 2000, answer: 3000 }

interface Checked {
  door: BrokerDoor
  status: DoorStatus
  own: OwnCertificate
  wire: Wire
}

/** Comes to a door as an MQTT client does, without a name. */
export const checkDoor = ({ door, status, own, wire }: Checked): AsyncGenerator<CheckStep> =>
  walkToDoor(steps, { door, status }, (numeric) => asDialled(numeric, door, own, wire))

async function* asDialled(numeric: string, door: BrokerDoor, own: OwnCertificate, wire: Wire): AsyncGenerator<CheckStep> {
  const { port } = door
  yield waiting('port')
  let began = performance.now()
  try {
    const socket = await wire.dial({ host: numeric, port, connectMs: patience.connect })
    yield sound('port', `TCP ${port} open`, performance.now() - began)
    socket.destroy()
  } catch (why) {
    yield failed('port', why as Fault, performance.now() - began)
    return yield* notReached('port').slice(0, -1)
  }
  yield certificateFor(door, own)
  yield waiting('answer')
  began = performance.now()
  const told = await answerOf(numeric, door).catch((error: Error) => error)
  const ms = performance.now() - began
  if (told instanceof Error) yield failed('answer', tcpFault(told, hostOf(door), port), ms)
  else yield sound('answer', told, ms)
}

/** A careful client compares the host that it dialled with the hosts in our certificate. */
const certificateFor = (door: BrokerDoor, { facts }: OwnCertificate): CheckStep => {
  if (!door.tls) return open('secured', 'off', 'this door encrypts nothing')
  const host = hostOf(door)
  const [problem] = judge(facts, { now: Date.now(), host, applicationUri: null })
  if (!problem)
    return sound('secured', `our certificate is for ${host}, valid until ${new Date(facts.validTo).toISOString().slice(0, 10)}`, null)
  return failed('secured', fault('outlet.certificate-for', { host, problem: problem.text }), null)
}

/** What the broker says to somebody without a name. */
const answerOf = async (numeric: string, door: BrokerDoor): Promise<string> => {
  const stream = dialled(numeric, door)
  const client = new MqttClient(() => stream as never, {
    ...{ protocolVersion: 4, clientId: `door-check-${randomBytes(4).toString('hex')}`, reconnectPeriod: 0 },
    connectTimeout: patience.answer,
  })
  try {
    return await within(patience.answer, letIn(client, door))
  } finally {
    client.end(true)
    stream.destroy()
  }
}

const dialled = (host: string, door: BrokerDoor): Duplex => {
  const { port, tls, over } = door
  // what is tried is whether the broker answers; whom a client trusts is its own affair
  if (over === 'websocket')
    return createWebSocketStream(new WebSocket(`${schemeOf(door)}://${hostText(host)}:${port}`, 'mqtt', { rejectUnauthorized: false }))
  return tls ? connectTls({ host, port, rejectUnauthorized: false }) : connect({ host, port })
}

/** CONNACK: let in, or sent away for want of a name where the door asks for one. */
const letIn = (client: MqttClient, door: BrokerDoor): Promise<string> =>
  new Promise((resolve, reject) => {
    client.once('connect', () => resolve('CONNACK, let in without a name'))
    client.once('error', (error) => {
      if (error instanceof ErrorWithReasonCode && !door.anonymous) resolve('CONNACK, and asks for a name, as it is set to')
      else reject(error)
    })
    client.once('close', () => reject(new Error('it closed the connection')))
  })
