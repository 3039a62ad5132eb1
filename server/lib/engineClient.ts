import { createBirpc, type BirpcReturn } from 'birpc'
import { WebSocket } from 'ws'
import { fault } from '#core/faults/catalogue'
import type { EngineApi, WebApi } from '#shared/rpc'
import { Refusal } from './refusal'

type Engine = BirpcReturn<EngineApi, WebApi>
type PartListener = (part: unknown) => void

const callTimeoutMs = 310_000
const handshakeTimeoutMs = 3000
const reconnectMs = 300

/** The one connection to the engine. It reconnects by itself; while it is away, calls are refused at once. */
class EngineClient {
  private rpc: Engine | null = null
  private socket: WebSocket | null = null
  private listeners = new Map<string, PartListener>()
  private timer: NodeJS.Timeout | null = null
  private closed = false
  /** Called when the engine comes or comes back: what it should watch is told anew. */
  onConnect: () => void = () => {}
  onDeliver: WebApi['deliver'] = () => Promise.resolve()

  start() {
    this.connect()
  }

  get connected() {
    return this.rpc !== null
  }

  /** The engine's functions, or the refusal that says it is away. */
  get engine(): Engine {
    if (!this.rpc) throw new Refusal(fault('engine.away', {}))
    return this.rpc
  }

  /** Calls the engine; a connection that ends during the call is the same refusal. */
  async call<T>(work: (engine: Engine) => Promise<T>): Promise<T> {
    const { engine } = this
    try {
      return await work(engine)
    } catch (error) {
      if (this.rpc !== engine) throw new Refusal(fault('engine.away', {}))
      throw error
    }
  }

  /** Long work: `start` begins it under this id, and what it brings reaches `onPart`. */
  async follow<T>(id: string, start: (engine: Engine) => Promise<T>, onPart: PartListener): Promise<T> {
    this.listeners.set(id, onPart)
    try {
      return await this.call(start)
    } finally {
      this.listeners.delete(id)
    }
  }

  close() {
    this.closed = true
    if (this.timer) clearTimeout(this.timer)
    this.socket?.terminate()
  }

  private connect() {
    const url = `ws://${process.env.CONDUIT_RPC_HOST ?? '127.0.0.1'}:${process.env.CONDUIT_RPC_PORT}`
    const headers = { authorization: `Bearer ${process.env.CONDUIT_RPC_SECRET}` }
    const socket = new WebSocket(url, { headers, handshakeTimeout: handshakeTimeoutMs, maxPayload: 64 * 1024 * 1024 })
    this.socket = socket
    socket.on('open', () => this.opened(socket))
    socket.on('error', () => {})
    socket.on('close', () => this.lost())
  }

  private opened(socket: WebSocket) {
    const functions: WebApi = {
      part: (id, part) => this.listeners.get(id)?.(part),
      deliver: (viewer, values) => this.onDeliver(viewer, values),
    }
    this.rpc = createBirpc<EngineApi, WebApi>(functions, {
      post: (data: string) => socket.send(data),
      on: (take) => socket.on('message', (data: Buffer) => void take(data.toString())),
      serialize: (message) => JSON.stringify(message),
      deserialize: (text: string) => JSON.parse(text) as unknown,
      timeout: callTimeoutMs,
      eventNames: ['leave', 'watch', 'stop'],
    })
    this.onConnect()
  }

  private lost() {
    const rpc = this.rpc
    this.rpc = null
    rpc?.$close(new Error('engine gone'))
    if (this.closed) return
    this.timer = setTimeout(() => this.connect(), reconnectMs * (0.5 + Math.random()))
  }
}

export const engineClient = new EngineClient()
