import { createServer as createHttp } from 'node:http'
import { createServer as createHttps } from 'node:https'
import { createServer, type Server, type Socket } from 'node:net'
import type { Duplex } from 'node:stream'
import { createServer as createTls } from 'node:tls'
import { createWebSocketStream, WebSocketServer } from 'ws'
import type { BrokerDoor } from '#shared/outlets/mqttBroker'
import type { OwnCertificate } from '#security/ownCertificate'
import type { Opened } from '../doors/doorSet'
import { listening, secretsOf, type Knocks } from '../doors/listening'

interface Heard extends Knocks {
  /** Bytes of MQTT come and go here. */
  came(connection: Duplex, socket: Socket): void
}

const largestFrame = 64 * 1024 * 1024

/** Listens at a door, over what it is set to. Rejects where the port cannot be had. */
export const listenAt = (door: BrokerDoor, own: Pick<OwnCertificate, 'key' | 'pem'>, heard: Heard): Promise<Opened> =>
  listening(door.over === 'websocket' ? overWebsocket(door, own, heard) : overTcp(door, own, heard), door, heard)

const overTcp = ({ tls }: BrokerDoor, own: Pick<OwnCertificate, 'key' | 'pem'>, { came }: Heard): Server => {
  if (!tls) return createServer((socket) => void (socket.destroyed || came(socket, socket)))
  return createTls(secretsOf(own), (socket) => came(socket, socket))
}

/** MQTT over websockets has a name of its own (MQTT 3.1.1, 6). */
const overWebsocket = ({ tls }: BrokerDoor, own: Pick<OwnCertificate, 'key' | 'pem'>, { came }: Heard): Server => {
  const server = tls ? createHttps(secretsOf(own)) : createHttp()
  server.on('request', (_request, response) => response.writeHead(426, { 'content-type': 'text/plain' }).end('MQTT over websocket\n'))
  const sockets = new WebSocketServer({ server, maxPayload: largestFrame, handleProtocols: (offered) => offered.has('mqtt') && 'mqtt' })
  sockets.on('error', () => {})
  sockets.on('connection', (socket, request) => {
    const stream = createWebSocketStream(socket)
    stream.on('error', () => {})
    came(stream, request.socket)
  })
  return server
}
