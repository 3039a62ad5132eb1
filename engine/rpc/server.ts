import { timingSafeEqual } from 'node:crypto'
import { createBirpc, type BirpcReturn } from 'birpc'
import { WebSocketServer, type WebSocket } from 'ws'
import type { EngineApi, WebApi } from '#shared/rpc'

export type WebSide = BirpcReturn<WebApi, EngineApi>

interface RpcOptions {
  host: string
  port: number
  secret: string
  /** The functions for one connected web side. */
  api(web: WebSide): EngineApi
  left(web: WebSide): void
}

const mostPayload = 32 * 1024 * 1024
const deliveryTimeoutMs = 10_000
const pingEveryMs = 5000

/** Where web processes connect. They prove themselves with the shared secret before anything is read. */
export const openRpc = (options: RpcOptions): Promise<{ port: number; close(): Promise<void> }> => {
  const server = new WebSocketServer({
    host: options.host,
    port: options.port,
    maxPayload: mostPayload,
    verifyClient: ({ req }: { req: { headers: { authorization?: string } } }) => isAuthorised(req.headers.authorization, options.secret),
  })
  server.on('connection', (socket) => serve(socket, options))
  return new Promise((resolve, reject) => {
    server.once('error', reject)
    server.once('listening', () => {
      server.off('error', reject)
      const { port } = server.address() as { port: number }
      resolve({ port, close: () => closeServer(server) })
    })
  })
}

const isAuthorised = (header: string | undefined, secret: string): boolean => {
  const given = Buffer.from(header ?? '')
  const wanted = Buffer.from(`Bearer ${secret}`)
  return given.length === wanted.length && timingSafeEqual(given, wanted)
}

const serve = (socket: WebSocket, options: RpcOptions) => {
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
  api = options.api(web)
  const stopPinging = dropWhenSilent(socket)
  socket.on('error', () => socket.terminate())
  socket.on('close', () => {
    stopPinging()
    web.$close(new Error('web side gone'))
    options.left(web)
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
