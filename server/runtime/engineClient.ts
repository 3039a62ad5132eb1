import { createBirpc, type BirpcReturn } from 'birpc'
import { WebSocket } from 'ws'
import { fault } from '#core/faults/catalogue'
import type { EngineApi, WebApi } from '#shared/rpc'
import { steadyNow } from '#pacing/clock'
import { Refusal } from '../answers/refusal'

export type Engine = BirpcReturn<EngineApi, WebApi>
type PartListener = (part: unknown) => void

/** Long work reports its parts meanwhile, and ends by its own limit before this. */
const longestCallMs = 310_000
const usualCallMs = 60_000
const lookEveryMs = 1000
/** Without a sign of life for so long, the engine hangs: the connection is no use, and pages are to know. */
const silentMs = 4000
const handshakeTimeoutMs = 3000
const reconnectMs = 300

/** The one connection to the engine. It reconnects by itself; while it is away, calls are refused at once. */
class EngineClient {
  private rpc: Engine | null = null
  private socket: WebSocket | null = null
  private listeners = new Map<string, PartListener>()
  private timer: NodeJS.Timeout | null = null
  private watch: NodeJS.Timeout | null = null
  private heardAt = 0
  private closed = false
  /** What is asked in its place, where this copy looks at a case; null: the engine itself. */
  stand: Engine | null = null
  /** Called when the engine comes or comes back: what it should watch is told anew. */
  onConnect: () => void = () => {}
  onDeliver: WebApi['deliver'] = () => Promise.resolve()

  start() {
    this.connect()
  }

  get connected() {
    return this.stand !== null || this.rpc !== null
  }

  /** Whether it is there and gave a sign of life just now. */
  get alive() {
    return this.stand !== null || (this.connected && steadyNow() - this.heardAt < silentMs)
  }

  /** The engine's functions, or the refusal that says it is away. */
  get engine(): Engine {
    const engine = this.stand ?? this.rpc
    if (!engine) throw new Refusal(fault('engine.away', {}))
    return engine
  }

  /** Calls the engine; a connection that ends during the call, or no answer in time, is the same refusal. */
  async call<T>(work: (engine: Engine) => Promise<T>, mostMs = usualCallMs): Promise<T> {
    const { engine } = this
    let timer: NodeJS.Timeout | undefined
    const late = new Promise<never>((_, reject) => {
      timer = setTimeout(() => reject(new Refusal(fault('engine.away', {}, `no answer within ${mostMs} ms`))), mostMs)
    })
    try {
      return await Promise.race([work(engine), late])
    } catch (error) {
      if (this.rpc !== engine && this.stand !== engine) throw new Refusal(fault('engine.away', {}))
      throw error
    } finally {
      clearTimeout(timer)
    }
  }

  /** Long work: `start` begins it under this id, and what it brings reaches `onPart`. */
  async follow<T>(id: string, start: (engine: Engine) => Promise<T>, onPart: PartListener): Promise<T> {
    this.listeners.set(id, onPart)
    try {
      return await this.call(start, longestCallMs)
    } finally {
      this.listeners.delete(id)
    }
  }

  close() {
    this.closed = true
    if (this.timer) clearTimeout(this.timer)
    if (this.watch) clearInterval(this.watch)
    this.socket?.terminate()
  }

  private connect() {
    const url = `ws://${process.env.CONDUIT_RPC_HOST ?? '127.0.0.1'}:${process.env.CONDUIT_RPC_PORT}`
    const headers = { authorization: `Bearer ${process.env.CONDUIT_RPC_SECRET}` }
    const socket = new WebSocket(url, { headers, handshakeTimeout: handshakeTimeoutMs, maxPayload: 64 * 1024 * 1024 })
    this.socket = socket
    for (const sign of ['message', 'ping', 'pong']) socket.on(sign, () => (this.heardAt = steadyNow()))
    socket.on('open', () => this.opened(socket))
    socket.on('error', () => {})
    socket.on('close', () => this.lost())
  }

  private opened(socket: WebSocket) {
    const functions: WebApi = {
      part: (id, part) => this.listeners.get(id)?.(part),
      deliver: (...delivery) => this.onDeliver(...delivery),
    }
    this.rpc = createBirpc<EngineApi, WebApi>(functions, {
      post: (data: string) => socket.send(data),
      on: (take) => socket.on('message', (data: Buffer) => void take(data.toString())),
      serialize: (message) => JSON.stringify(message),
      deserialize: (text: string) => JSON.parse(text) as unknown,
      timeout: longestCallMs,
      eventNames: ['leave', 'watch', 'stop'],
    })
    this.heardAt = steadyNow()
    this.watch = setInterval(() => this.look(socket), lookEveryMs)
    this.onConnect()
  }

  private look(socket: WebSocket) {
    if (steadyNow() - this.heardAt > silentMs) socket.terminate()
    else socket.ping()
  }

  private lost() {
    const rpc = this.rpc
    this.rpc = null
    if (this.watch) clearInterval(this.watch)
    rpc?.$close(new Error('engine gone'))
    if (this.closed) return
    this.timer = setTimeout(() => this.connect(), reconnectMs * (0.5 + Math.random()))
  }
}

export const engineClient = new EngineClient()
