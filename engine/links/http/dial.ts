import { isIP, type Socket } from 'node:net'
import { connect, type TLSSocket } from 'node:tls'
import { fault, type Fault } from '#core/faults/catalogue'
import { placeOfBase } from '#core/http/base'
import type { HttpSettings } from '#core/http/settings'
import type { Wire } from '../../wire/wire'

/** A connection to a web API, encrypted where its address says so. */
export interface Line {
  socket: Socket
  /** What was agreed on; null: nothing is encrypted. */
  agreed: string | null
}

type Wanted = Pick<HttpSettings, 'base' | 'trust' | 'patience'>

/** Connects, and agrees on TLS; rejects with a Fault. */
export const dialApi = async (settings: Wanted, wire: Wire, signal?: AbortSignal, address?: string): Promise<Line> => {
  const { host, port, isEncrypted } = placeOfBase(settings.base)
  const socket = await wire.dial({
    ...{ host: address ?? host, port, connectMs: settings.patience.connect, isSeen: !isEncrypted },
    ...(signal ? { signal } : {}),
  })
  socket.setNoDelay(true)
  if (!isEncrypted) return { socket, agreed: null }
  const line = await secured(socket, settings, host, port)
  wire.attendOne(line.socket, `${host}:${port}`)
  return line
}

const secured = (socket: Socket, { trust, patience }: Wanted, host: string, port: number): Promise<Line> =>
  new Promise((resolve, reject) => {
    let stream: TLSSocket
    const fail = (problem: string) => {
      clearTimeout(timer)
      socket.destroy()
      reject(fault('http.tls', { host, port, problem }, problem) as unknown as Error)
    }
    const timer = setTimeout(() => fail(`it did not answer within ${patience.connect} ms`), patience.connect)
    try {
      stream = connect({
        ...{ socket, host, rejectUnauthorized: trust.verify, minVersion: 'TLSv1.2', ALPNProtocols: ['http/1.1'] },
        ...(isIP(host) === 0 ? { servername: host } : {}),
        ...(trust.authority === '' ? {} : { ca: trust.authority }),
      })
    } catch (error) {
      return fail((error as Error).message)
    }
    stream.once('error', (error) => fail(error.message))
    stream.once('close', () => fail('it closed the connection'))
    stream.once('secureConnect', () => {
      clearTimeout(timer)
      stream.removeAllListeners('error').removeAllListeners('close')
      const { subject, valid_to: until } = stream.getPeerCertificate()
      const whose = [subject?.CN].flat().join(', ') || 'nobody'
      resolve({ socket: stream, agreed: `${stream.getProtocol() ?? 'TLS'}, certificate of ${whose}, valid until ${until}` })
    })
  })

export const isFault = (why: unknown): why is Fault => typeof why === 'object' && why !== null && 'code' in why && 'side' in why
