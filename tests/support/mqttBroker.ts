import { createServer as createHttp } from 'node:http'
import { createServer, type Server, type Socket } from 'node:net'
import { createServer as createTls, type TlsOptions } from 'node:tls'
import { createWebSocketStream, WebSocketServer } from 'ws'
import { Aedes, type AedesOptions } from 'aedes'

/** A broker that is not ours, on a port of its own. */
export const startBroker = async (options: AedesOptions = {}, port = 0, carrier: { tls?: TlsOptions; websocket?: string } = {}) => {
  const broker = await Aedes.createBroker(options)
  const sockets = new Set<Socket>()
  const take = (socket: Socket) => {
    sockets.add(socket.on('error', () => {}).on('close', () => sockets.delete(socket)))
    broker.handle(socket)
  }
  const server = serverOver(carrier, take)
  await new Promise<void>((resolve) => server.listen(port, '127.0.0.1', resolve))
  return {
    broker,
    port: (server.address() as { port: number }).port,
    publish: (topic: string, payload: string | Buffer, more: { retain?: boolean; qos?: 0 | 1 | 2 } = {}) =>
      new Promise<void>((resolve, reject) =>
        broker.publish({ cmd: 'publish', topic, payload, qos: 0, retain: false, dup: false, ...more }, (error) =>
          error ? reject(error) : resolve(),
        ),
      ),
    drop: () => sockets.forEach((socket) => socket.destroy()),
    stop: async () => {
      sockets.forEach((socket) => socket.destroy())
      await new Promise<void>((resolve) => server.close(() => resolve()))
      await new Promise<void>((resolve) => broker.close(() => resolve()))
    },
  }
}

const serverOver = ({ tls, websocket }: { tls?: TlsOptions; websocket?: string }, take: (connection: Socket) => void): Server => {
  if (tls) return createTls(tls, take).on('tlsClientError', () => {})
  if (websocket === undefined) return createServer(take)
  const http = createHttp()
  new WebSocketServer({ server: http, path: websocket }).on('connection', (socket) => take(createWebSocketStream(socket) as never))
  return http
}
