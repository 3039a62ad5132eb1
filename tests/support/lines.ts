import { createServer, connect, type Socket } from 'node:net'
import { z } from 'zod'
import type { Protocol } from '#core/links/protocol'
import { quality } from '#core/tags/quality'
import type { LinkContext, LinkDriver, LinkSession, Point } from '#engine/links/driver'
import type { LinkStatus } from '#shared/status'

/**
 * A protocol that does not exist, for tests: lines of `topic payload` over TCP. It shows what a source of messages
 * needs, and that a kind of link is its own files and one line in each registry.
 */
export const linesProtocol = {
  kind: 'lines',
  title: 'Lines',
  subtitle: 'lines of text',
  capabilities: { browse: false, read: false, watch: true, write: false, publish: false, messages: true, tap: false },
  frames: null,
  words: null,
  place: (settings) => String((settings as { port: number }).port),
  goal: () => null,
  interval: () => 0,
  describe: (text) => ({
    ...{ ok: true, canonical: text.trim(), notations: [], note: null, types: ['float64'], defaultType: 'float64', writable: false },
    unit: null,
  }),
  isPassing: () => false,
  problems: () => [],
  spot: () => null,
  reference: () => ({ notation: [], places: [], limits: [], errors: [] }),
  load: () => ({ parts: [], busy: null, costly: [] }),
  next: () => null,
  onUnit: () => null,
  shortAddress: (address) => address,
  optionsText: () => '',
  leanOptions: (options) => options,
  whyNotKept: () => null,
  columns: [],
  optionsFor: (_, options) => options,
} satisfies Protocol as Protocol

export const linesContracts = { settings: z.object({ port: z.int() }), point: z.object({}) }

type Settings = z.output<typeof linesContracts.settings>

class LinesSession implements LinkSession<Settings> {
  private socket: Socket
  private rest = ''
  private claims = new Map<number, () => void>()

  constructor(private context: LinkContext<Settings>) {
    this.socket = connect(context.settings.port, '127.0.0.1')
    this.socket.on('error', () => {}).on('data', (data) => this.hear(data))
  }

  setPoints(changed: readonly Point[], removed: readonly number[]) {
    for (const handle of [...removed, ...changed.map((point) => point.handle)]) {
      this.claims.get(handle)?.()
      this.claims.delete(handle)
    }
    const { table, arrivals } = this.context
    for (const { handle, address, path } of changed) {
      const take = ({ payload, at }: { payload: Uint8Array; at: number }) => {
        table.set(handle, Number(Buffer.from(payload).toString()), quality.Good, at)
        table.flush()
      }
      this.claims.set(handle, arrivals.claim({ by: `tag ${path}`, topic: address, take }))
    }
  }

  update() {}
  write = () => Promise.resolve({ ok: true } as const)
  findings() {
    return []
  }

  origin = () => null
  status = (): Omit<LinkStatus, 'id' | 'tags' | 'goodTags'> => ({
    ...{ flow: 'flowing', sentence: '', fault: null, answerMs: null, requests: 0, failures: 0, connections: 1 },
  })
  close() {
    this.socket.destroy()
    return Promise.resolve()
  }

  private hear(data: Buffer) {
    const lines = (this.rest + data.toString()).split('\n')
    this.rest = lines.pop()!
    for (const line of lines) {
      const [topic, ...rest] = line.split(' ')
      this.context.arrivals.hand({ topic: topic!, payload: Buffer.from(rest.join(' ')), at: Date.now() })
    }
  }
}

export const linesDriver: LinkDriver<Settings> = {
  open: (context) => new LinesSession(context),
  async *check() {},
  tryRead: () => Promise.reject(new Error('nothing can be asked for')),
}

/** Whoever sends the lines. */
export const lineSender = async () => {
  const sockets = new Set<Socket>()
  const server = createServer((socket) => void sockets.add(socket.on('error', () => {})))
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve))
  return {
    port: (server.address() as { port: number }).port,
    connections: () => sockets.size,
    send: (...lines: string[]) => sockets.forEach((socket) => socket.write(lines.map((line) => `${line}\n`).join(''))),
    close: () => {
      sockets.forEach((socket) => socket.destroy())
      return new Promise<void>((resolve) => server.close(() => resolve()))
    },
  }
}
