import { createServer as createHttp } from 'node:http'
import { createServer as createHttps } from 'node:https'
import { createServer, type Server, type Socket } from 'node:net'
import type { Duplex } from 'node:stream'
import { createServer as createTls } from 'node:tls'
import { createWebSocketStream, WebSocketServer } from 'ws'
import type { BrokerDoor } from '#shared/outlets/mqttBroker'
import type { OwnCertificate } from '#security/ownCertificate'
import type { Opened } from '../doors/doorSet'

interface Heard {
  /** Whether one more may come from there. */
  admits(socket: Socket, ofDoor: ReadonlySet<Socket>): boolean
  /** A raw connection, before anything is said. */
  knocked(socket: Socket): void
  /** Bytes of MQTT come and go here. */
  came(connection: Duplex, socket: Socket): void
  /** Somebody could not agree with us on how to be secure. */
  unsecured(from: string, problem: string): void
}

const largestFrame = 64 * 1024 * 1024

/** Listens at a door, over what it is set to. Rejects where the port cannot be had. */
export const listenAt = async (door: BrokerDoor, own: Pick<OwnCertificate, 'key' | 'pem'>, heard: Heard): Promise<Opened> => {
  const sockets = new Set<Socket>()
  const server = door.over === 'websocket' ? overWebsocket(door, own, heard) : overTcp(door, own, heard)
  server.prependListener('connection', (socket: Socket) => {
    heard.knocked(socket)
    if (!heard.admits(socket, sockets)) return void socket.destroy()
    sockets.add(socket.setNoDelay(true))
    socket.on('error', () => {}).once('close', () => sockets.delete(socket))
  })
  server.on('tlsClientError', (error: Error, socket: Socket) => heard.unsecured(socket.remoteAddress ?? 'somewhere', error.message))
  await new Promise<void>((resolve, reject) => {
    server.once('error', reject)
    server.listen(door.port, door.interface, () => {
      server.off('error', reject).on('error', () => {})
      resolve()
    })
  })
  return {
    close: async () => {
      for (const socket of sockets) socket.destroy()
      await new Promise<void>((resolve) => server.close(() => resolve()))
    },
  }
}

const secretsOf = ({ key, pem }: Pick<OwnCertificate, 'key' | 'pem'>) => ({ key, cert: pem, minVersion: 'TLSv1.2' as const })

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
