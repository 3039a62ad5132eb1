import { randomBytes } from 'node:crypto'
import { connect } from 'node:net'
import type { Duplex } from 'node:stream'
import { connect as connectTls } from 'node:tls'
import { ErrorWithReasonCode, MqttClient } from 'mqtt'
import { createWebSocketStream, WebSocket } from 'ws'
import { hostText } from '#core/opcua/endpointAddress'
import { schemeOf, type BrokerDoor } from '#shared/outlets/mqttBroker'
import type { DoorStatus } from '#shared/outlets/doorStatus'
import type { CheckStep } from '#shared/status'
import { within } from '#pacing/within'
import type { OwnCertificate } from '#security/ownCertificate'
import type { Wire } from '../../wire/wire'
import { dialDoor, tlsDoorSteps } from '../doors/dialDoor'
import { walkToDoor } from '../doors/walkToDoor'

const answerMs = 3000

interface Checked {
  door: BrokerDoor
  status: DoorStatus
  own: OwnCertificate
  wire: Wire
}

/** Comes to a door as an MQTT client does, without a name. */
export const checkDoor = ({ door, status, own, wire }: Checked): AsyncGenerator<CheckStep> =>
  walkToDoor(tlsDoorSteps, { door, status }, (numeric) => dialDoor(numeric, { door, own, wire, answer: () => answerOf(numeric, door) }))

/** What the broker says to somebody without a name. */
const answerOf = async (numeric: string, door: BrokerDoor): Promise<string> => {
  const stream = dialled(numeric, door)
  const client = new MqttClient(() => stream as never, {
    ...{ protocolVersion: 4, clientId: `door-check-${randomBytes(4).toString('hex')}`, reconnectPeriod: 0 },
    connectTimeout: answerMs,
  })
  try {
    return await within(answerMs, letIn(client, door))
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
