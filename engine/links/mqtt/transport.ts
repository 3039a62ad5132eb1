import type { Socket } from 'node:net'
import type { Duplex } from 'node:stream'
import { createWebSocketStream, WebSocket } from 'ws'
import { fault } from '#core/faults/catalogue'
import type { MqttSettings } from '#core/mqtt/settings'
import { hostText } from '#core/opcua/endpointAddress'
import { tlsOver, type Secured } from '../../wire/tlsOver'
import type { Wire } from '../../wire/wire'
import type { Credentials } from './credentials'

/** Connects, agrees on TLS and opens a websocket, as far as the settings want it; rejects with a Fault. */
export const connectTo = async (settings: MqttSettings, pair: Credentials['pair'], wire: Wire, signal: AbortSignal): Promise<Duplex> => {
  const { host, port, localAddress, patience, tls } = settings
  const socket = await wire.dial({ host, port, localAddress, connectMs: patience.connect, signal, isSeen: tls.mode === 'off' })
  const { stream } = await secured(socket, settings, pair)
  if (tls.mode !== 'off') wire.attendOne(stream, `${host}:${port}`)
  return carried(stream, settings)
}

/** TLS over a connection that stands, where it is wanted; rejects with a Fault. */
export const secured = async (
  socket: Socket,
  { host, port, tls, patience }: MqttSettings,
  pair: Credentials['pair'],
  shown?: (certificate: string) => void,
): Promise<Secured> => {
  try {
    return await tlsOver(socket, { host, tls, within: patience.answer, pair, ...(shown ? { shown } : {}) })
  } catch (error) {
    const problem = (error as Error).message
    throw fault('mqtt.tls', { host, port, problem }, problem) as unknown as Error
  }
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
