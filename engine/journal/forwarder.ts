import { createSocket, type Socket as Datagrams } from 'node:dgram'
import { isIPv6 } from 'node:net'
import { hostname } from 'node:os'
import type { Duplex } from 'node:stream'
import { fault, isFault, type Fault } from '#core/faults/catalogue'
import { severities, type Entry } from '#core/journal/entry'
import type { Forwarding } from '#core/journal/settings'
import { octetCounted, syslogMessage } from '#core/journal/syslog'
import { Backoff } from '#pacing/backoff'
import type { ForwardingStatus } from '#shared/journal'
import { within } from '#pacing/within'
import { resolveName } from '../wire/resolveName'
import { tlsOver } from '../wire/tlsOver'
import { Wire } from '../wire/wire'

/** So many wait while the receiver is away; then the oldest go, and are counted. */
const mostWaiting = 2000
const connectMs = 5000
const [firstPause, longestPause] = [1000, 60_000]

/** What takes messages of a receiver, as long as it stands. */
interface Way {
  /** Resolves once the message has left us. */
  send(message: Uint8Array): Promise<void>
  /** Called once, when it stands no more. */
  onEnd(ended: (why: Fault) => void): void
  close(): void
}

/**
 * Hands entries on to a syslog server, in order, as long as it takes them; while it is away the newest wait. What had
 * left us when a connection broke may be lost: the protocol knows no receipt.
 */
export class Forwarder {
  private waiting: Uint8Array[] = []
  private way: Way | null = null
  private opening = false
  private pause: NodeJS.Timeout | null = null
  private sending = false
  private backoff = new Backoff(firstPause, longestPause)
  private sent = 0
  private dropped = 0
  private fault: Fault | null = null
  private closed = false

  constructor(private settings: Forwarding) {}

  add(entry: Entry) {
    if (severities.indexOf(entry.severity) < severities.indexOf(this.settings.least)) return
    if (this.waiting.length >= mostWaiting) {
      this.waiting.shift()
      this.dropped++
    }
    this.waiting.push(messageOf(entry, this.settings))
    void this.sendAll()
  }

  status(): ForwardingStatus {
    const { sent, dropped, fault } = this
    return { sent, dropped, waiting: this.waiting.length, fault, isOpen: this.way !== null }
  }

  close() {
    this.closed = true
    if (this.pause) clearTimeout(this.pause)
    this.way?.close()
    this.way = null
  }

  private async sendAll() {
    if (this.sending || this.closed) return
    if (!this.way) return this.open()
    this.sending = true
    try {
      for (let way = this.way; this.waiting.length > 0 && way === this.way;) {
        const message = this.waiting[0]!
        await way.send(message)
        // what was pushed out meanwhile is gone already
        if (this.waiting[0] === message) this.waiting.shift()
        this.sent++
        this.fault = null
        this.backoff.reset()
      }
    } catch (error) {
      this.lose(faultOf(error, this.settings))
    } finally {
      this.sending = false
    }
  }

  private async open() {
    if (this.opening || this.pause || this.closed) return
    this.opening = true
    try {
      const way = await wayTo(this.settings)
      if (this.closed) return way.close()
      this.way = way
      way.onEnd((why) => way === this.way && this.lose(why))
    } catch (error) {
      this.lose(faultOf(error, this.settings))
    } finally {
      this.opening = false
    }
    if (this.way) void this.sendAll()
  }

  private lose(why: Fault) {
    this.way?.close()
    this.way = null
    this.fault = why
    if (this.closed || this.pause) return
    this.pause = setTimeout(() => {
      this.pause = null
      if (this.waiting.length > 0) void this.open()
    }, this.backoff.next())
    this.pause.unref()
  }
}

/** Sends one message to a receiver, to see whether it takes it. Rejects with a Fault. */
export const sendOnce = async (settings: Forwarding, entry: Entry): Promise<void> => {
  try {
    const way = await wayTo(settings)
    const broken = new Promise<never>((_, reject) => way.onEnd((why) => reject(why as unknown as Error)))
    try {
      await Promise.race([way.send(messageOf(entry, settings)), broken])
    } finally {
      way.close()
    }
  } catch (error) {
    throw faultOf(error, settings) as unknown as Error
  }
}

const messageOf = (entry: Entry, { facility, over }: Forwarding) => {
  const message = syslogMessage(entry, { facility, host: hostname(), app: 'conduit', process: process.pid })
  return over === 'tcp' ? octetCounted(message) : message
}

const wayTo = (settings: Forwarding): Promise<Way> => (settings.over === 'udp' ? datagramsTo(settings) : streamTo(settings))

const datagramsTo = async ({ host, port }: Forwarding): Promise<Way> => {
  const resolved = await resolveName(host, port, connectMs)
  if ('fault' in resolved) throw resolved.fault as unknown as Error
  const { address } = resolved
  const socket: Datagrams = createSocket(isIPv6(address) ? 'udp6' : 'udp4')
  const problem = new Promise<Error>((resolve) => socket.once('error', resolve))
  let isOpen = true
  // connected, so that a machine that refuses is heard
  await new Promise<void>((resolve, reject) => {
    socket.once('error', reject)
    socket.connect(port, address, () => resolve())
  })
  return {
    send: (message) => new Promise((resolve, reject) => socket.send(message, (error) => (error ? reject(error) : resolve()))),
    onEnd: (ended) => void problem.then((error) => ended(faultOf(error, { host, port }))),
    close: () => {
      if (isOpen) socket.close()
      isOpen = false
    },
  }
}

const streamTo = async ({ host, port, tls }: Forwarding): Promise<Way> => {
  const socket = await new Wire().dial({ host, port, connectMs, isSeen: false })
  const { stream } = await tlsOver(socket, { host, tls, within: connectMs })
  stream.resume()
  const ended = new Promise<Fault>((resolve) => {
    stream.once('error', (error) => resolve(faultOf(error, { host, port })))
    stream.once('close', () => resolve(fault('tcp.closed', { host, port })))
  })
  return {
    send: (message) => written(stream, message),
    onEnd: (told) => void ended.then(told),
    close: () => void stream.destroy(),
  }
}

/** One that does not read for so long is as good as away. */
const writtenWithinMs = 30_000

const written = (stream: Duplex, message: Uint8Array): Promise<void> =>
  within(writtenWithinMs, new Promise<void>((resolve, reject) => stream.write(message, (error) => (error ? reject(error) : resolve()))))

const faultOf = (error: unknown, { host, port }: Pick<Forwarding, 'host' | 'port'>): Fault =>
  isFault(error) ? error : fault('journal.forwarding', { host, port, problem: (error as Error).message }, (error as Error).message)
