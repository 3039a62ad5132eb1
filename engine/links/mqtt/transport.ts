import { isIP, type Socket } from 'node:net'
import type { Duplex } from 'node:stream'
import { connect, type TLSSocket } from 'node:tls'
import { createWebSocketStream, WebSocket } from 'ws'
import { tlsDemands } from '#core/contracts/protection'
import { fault } from '#core/faults/catalogue'
import type { MqttSettings } from '#core/mqtt/settings'
import { hostText } from '#core/opcua/endpointAddress'
import type { Wire } from '../../wire/wire'
import type { Credentials } from './credentials'

/** What goes over TLS, and what was agreed there. */
export interface Secured {
  stream: Duplex
  /** Null: nothing is encrypted. */
  agreed: string | null
}

/** Connects, agrees on TLS and opens a websocket, as far as the settings want it; rejects with a Fault. */
export const connectTo = async (settings: MqttSettings, pair: Credentials['pair'], wire: Wire, signal: AbortSignal): Promise<Duplex> => {
  const { host, port, localAddress, patience, tls } = settings
  const socket = await wire.dial({ host, port, localAddress, connectMs: patience.connect, signal, isSeen: tls.mode === 'off' })
  const { stream } = await secured(socket, settings, pair)
  if (tls.mode !== 'off') wire.attendOne(stream, `${host}:${port}`)
  return carried(stream, settings)
}

/** TLS over a connection that stands, where it is wanted. */
export const secured = async (socket: Socket, settings: MqttSettings, pair: Credentials['pair']): Promise<Secured> => {
  const demands = tlsDemands(settings.tls)
  if (!demands) return { stream: socket, agreed: null }
  const { host, port, patience } = settings
  const name = isIP(host) === 0 ? { servername: host } : {}
  return new Promise((resolve, reject) => {
    let stream: TLSSocket
    const fail = (problem: string) => {
      clearTimeout(timer)
      socket.destroy()
      reject(fault('mqtt.tls', { host, port, problem }, problem) as unknown as Error)
    }
    const timer = setTimeout(() => fail(`it did not answer within ${patience.answer} ms`), patience.answer)
    try {
      stream = connect({ socket, host, ...name, ...demands, ...(pair ?? {}), minVersion: 'TLSv1.2' })
    } catch (error) {
      return fail((error as Error).message)
    }
    stream.once('error', (error) => fail(error.message))
    stream.once('close', () => fail('it closed the connection'))
    stream.once('secureConnect', () => {
      clearTimeout(timer)
      stream.removeAllListeners('error').removeAllListeners('close')
      const { subject } = stream.getPeerCertificate()
      resolve({ stream, agreed: `${stream.getProtocol() ?? 'TLS'}, certificate of ${[subject?.CN].flat().join(', ') || 'nobody'}` })
    })
  })
}

/** A websocket over a stream that stands, where it is wanted (MQTT 5.0, 6). */
export const carried = async (stream: Duplex, { over, host, port, path, tls, patience }: MqttSettings): Promise<Duplex> => {
  if (over === 'tcp') return stream
  const socket = new WebSocket(`${tls.mode === 'off' ? 'ws' : 'wss'}://${hostText(host)}:${port}${path}`, 'mqtt', {
    createConnection: () => stream as Socket,
    handshakeTimeout: patience.answer,
  })
  return new Promise((resolve, reject) => {
    socket.once('open', () => resolve(createWebSocketStream(socket)))
    socket.once('error', (error) => {
      stream.destroy()
      reject(fault('mqtt.websocket', { host, port, path, problem: error.message }, error.message) as unknown as Error)
    })
  })
}
