import { isIP, Socket, type Server } from 'node:net'
import type { Duplex } from 'node:stream'
import { fault, type Fault } from '#core/faults/catalogue'
import { tcpFault } from '#core/faults/tcp'
import type { FrameRule } from '#core/wire/frames'
import { Tap } from './tap'

export interface Dialled {
  host: string
  port: number
  /** The address of this machine to come from; absent or empty: whichever the system takes. */
  localAddress?: string
  connectMs: number
  signal?: AbortSignal
  /** False: what passes here is encrypted, and seen elsewhere. */
  isSeen?: boolean
}

/**
 * The connections of one link or outlet. All of them are made here, or shown here where a package makes them, so that
 * what passes can be seen.
 *
 * @example
 * const socket = await wire.dial({ host: '10.8.0.4', port: 502, connectMs: 3000 })
 */
export class Wire {
  readonly tap: Tap

  constructor(rule: FrameRule | null = null) {
    this.tap = new Tap(rule)
  }

  /** Connects within the time; rejects with a Fault. */
  dial({ host, port, localAddress = '', connectMs, signal, isSeen = true }: Dialled): Promise<Socket> {
    return new Promise((resolve, reject) => {
      const socket = isSeen ? this.tap.socket(`${host}:${port}`) : new Socket()
      const settle = () => {
        clearTimeout(timer)
        signal?.removeEventListener('abort', abort)
        socket.off('error', onError).off('connect', onConnect)
      }
      const fail = (why: Fault) => {
        settle()
        socket.on('error', () => {}).destroy()
        reject(why as unknown as Error)
      }
      const onError = (error: Error & { code?: string }) => fail(tcpFault(error, host, port, localAddress))
      const onConnect = () => {
        settle()
        resolve(socket)
      }
      const abort = () => fail(fault('tcp.closed', { host, port }))
      const timer = setTimeout(
        () => fail(fault('tcp.no-answer', { host, port, ms: connectMs }, `no answer to our connection within ${connectMs} ms`)),
        connectMs,
      )
      signal?.addEventListener('abort', abort, { once: true })
      socket.once('error', onError).once('connect', onConnect)
      socket.connect({ host, port, ...(isIP(localAddress) ? { localAddress } : {}) })
    })
  }

  /** Whoever comes in from now on is seen, too. */
  attend(listener: Server) {
    listener.on('connection', (socket) => this.tap.watch(socket, `${socket.remoteAddress}:${socket.remotePort}`))
  }

  /** A connection that somebody else accepted, where what it carries can be read. */
  attendOne(connection: Duplex, peer: string) {
    this.tap.watch(connection, peer)
  }

  close() {
    this.tap.close()
  }
}
