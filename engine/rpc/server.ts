import { timingSafeEqual } from 'node:crypto'
import { createBirpc, type BirpcReturn } from 'birpc'
import { WebSocketServer, type WebSocket } from 'ws'
import type { EngineApi, WebApi } from '#shared/rpc'

export type WebSide = BirpcReturn<WebApi, EngineApi>

/** Who answers a connected web side. */
export interface WebHost {
  /** The functions for one web side. */
  api(web: WebSide): EngineApi
  left(web: WebSide): void
}

interface RpcOptions {
  host: string
  port: number
  secret: string
}

export interface Rpc {
  port: number
  /** From now on this serves whoever connects; who is connected already connects anew. */
  serveBy(serve: (socket: WebSocket) => void): void
  close(): Promise<void>
}

const mostPayload = 32 * 1024 * 1024
const deliveryTimeoutMs = 10_000
const pingEveryMs = 5000

/** Where web processes connect. They prove themselves with the shared secret before anything is read. */
export const openRpc = (options: RpcOptions): Promise<Rpc> => {
  const server = new WebSocketServer({
    host: options.host,
    port: options.port,
    maxPayload: mostPayload,
    verifyClient: ({ req }: { req: { headers: { authorization?: string } } }) => isAuthorised(req.headers.authorization, options.secret),
  })
  let serve = (socket: WebSocket) => socket.close(1013, 'nobody serves yet')
  server.on('connection', (socket) => {
    socket.on('error', () => socket.terminate())
    serve(socket)
  })
  return new Promise((resolve, reject) => {
    server.once('error', reject)
    server.once('listening', () => {
      server.off('error', reject)
      const { port } = server.address() as { port: number }
      const serveBy = (by: (socket: WebSocket) => void) => {
        serve = by
        for (const client of server.clients) client.terminate()
      }
      resolve({ port, serveBy, close: () => closeServer(server) })
    })
  })
}

const isAuthorised = (header: string | undefined, secret: string): boolean => {
  const given = Buffer.from(header ?? '')
  const wanted = Buffer.from(`Bearer ${secret}`)
  return given.length === wanted.length && timingSafeEqual(given, wanted)
}

/** Serves one web side, wherever it came in. */
export const serveWeb = (socket: WebSocket, host: WebHost) => {
  let api: EngineApi | null = null
  // the functions need the peer and the peer needs the functions; the proxy ties the knot
  const functions = new Proxy({} as EngineApi, { get: (_, name) => api?.[name as keyof EngineApi] })
  const web = createBirpc<WebApi, EngineApi>(functions, {
    post: (data: string) => socket.send(data),
    on: (take) => socket.on('message', (data: Buffer) => void take(data.toString())),
    serialize: (message) => JSON.stringify(message),
    deserialize: (text: string) => JSON.parse(text) as unknown,
    timeout: deliveryTimeoutMs,
    eventNames: ['part'],
  })
  api = host.api(web)
  const stopPinging = dropWhenSilent(socket)
  socket.on('error', () => socket.terminate())
  socket.on('close', () => {
    stopPinging()
    web.$close(new Error('web side gone'))
    host.left(web)
  })
}

const dropWhenSilent = (socket: WebSocket) => {
  let alive = true
  socket.on('pong', () => (alive = true))
  const timer = setInterval(() => {
    if (!alive) return socket.terminate()
    alive = false
    socket.ping()
  }, pingEveryMs)
  return () => clearInterval(timer)
}

const closeServer = (server: WebSocketServer): Promise<void> =>
  new Promise((resolve) => {
    for (const client of server.clients) client.terminate()
    server.close(() => resolve())
  })
