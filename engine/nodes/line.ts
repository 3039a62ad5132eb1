import { createBirpc, type BirpcReturn } from 'birpc'
import type { WebSocket } from 'ws'
import { steadyNow } from '#pacing/clock'

interface LineOptions<Mine> {
  socket: WebSocket
  /** What the far side may call. */
  functions: Mine
  /** Calls of the far side that have no answer. */
  events: readonly string[]
  /** What comes besides words. Throws where it cannot be understood. */
  frame?(bytes: Uint8Array): void
  ended(why: string): void
}

const pingEveryMs = 1000
/** Without a sign of life for so long, the line is no use: whoever is at its other end may be gone for good. */
const silentMs = 6000
const callMs = 120_000
/** So much may wait to be sent before words count as lost. */
const mostBacklog = 64 * 1024 * 1024

/** One connection between a node and its site, from either end: calls, frames beside them, and signs of life. */
export class Line<Theirs extends object, Mine extends object> {
  readonly rpc: BirpcReturn<Theirs, Mine>
  heardAt = steadyNow()
  roundTripMs: number | null = null
  private watch: NodeJS.Timeout
  private why = ''
  private isOver = false

  constructor(private options: LineOptions<Mine>) {
    const { socket, functions, events } = options
    this.rpc = createBirpc<Theirs, Mine>(functions, {
      post: (text: string) => this.post(text),
      on: (take) => socket.on('message', (data: Buffer, isBinary: boolean) => (isBinary ? this.frame(data) : this.words(data, take))),
      serialize: (message) => JSON.stringify(message),
      deserialize: (message: unknown) => message,
      timeout: callMs,
      eventNames: events as never,
    })
    for (const sign of ['ping', 'pong', 'message']) socket.on(sign, () => (this.heardAt = steadyNow()))
    socket.on('pong', (data) => (this.roundTripMs = Math.max(0, Date.now() - Number(data.toString()))))
    socket.on('error', (error) => this.end(error.message))
    socket.on('close', (_code, reason) => this.closed(reason.toString()))
    this.watch = setInterval(() => this.look(), pingEveryMs)
  }

  get isOpen() {
    return !this.isOver && this.options.socket.readyState === 1
  }

  /** Bytes that wait to be sent. */
  get backlog() {
    return this.options.socket.bufferedAmount
  }

  send(frame: Uint8Array) {
    if (this.isOpen) this.options.socket.send(frame)
  }

  /** @param why is told to the far side, and to whoever waits here */
  end(why: string) {
    if (this.why === '') this.why = why
    this.options.socket.close(1000, short(why))
    // whoever does not answer is not waited for
    setTimeout(() => this.options.socket.terminate(), 1000).unref()
  }

  private post(text: string) {
    if (!this.isOpen) throw new Error('the line is closed')
    if (this.backlog > mostBacklog) return this.end('it does not take what is sent')
    this.options.socket.send(text)
  }

  private words(data: Buffer, take: (message: unknown) => unknown) {
    let message: unknown
    try {
      message = JSON.parse(data.toString())
    } catch {
      return this.end('what it says cannot be understood')
    }
    if (typeof message !== 'object' || message === null) return this.end('what it says cannot be understood')
    void Promise.resolve(take(message)).catch((error: Error) => this.end(error.message))
  }

  private frame(data: Buffer) {
    try {
      if (!this.options.frame) throw new Error('no frames are taken here')
      this.options.frame(data)
    } catch (error) {
      this.end(`what it sends cannot be understood: ${(error as Error).message}`)
    }
  }

  private look() {
    const { socket } = this.options
    if (steadyNow() - this.heardAt > silentMs) {
      this.why = `no sign of life for ${silentMs / 1000} s`
      return socket.terminate()
    }
    if (this.isOpen) socket.ping(String(Date.now()))
  }

  private closed(reason: string) {
    if (this.isOver) return
    this.isOver = true
    clearInterval(this.watch)
    this.rpc.$close(new Error('the line is closed'))
    this.options.ended(this.why || reason || 'the connection was closed')
  }
}

/** A reason takes 123 bytes at most (RFC 6455, 5.5). */
const short = (why: string) => {
  const bytes = Buffer.from(why)
  return bytes.length <= 120 ? why : bytes.subarray(0, 117).toString().replace(/�$/, '') + '…'
}
