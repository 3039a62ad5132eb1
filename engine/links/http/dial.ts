import { isIP, type Socket } from 'node:net'
import { connect, type TLSSocket } from 'node:tls'
import { fault } from '#core/faults/catalogue'
import { placeOfBase } from '#core/http/base'
import type { HttpSettings } from '#core/http/settings'
import type { Wire } from '../../wire/wire'
import type { Access } from './access'
import { tunnelTo } from './proxy'

/** A connection to a web API, encrypted where its address says so. */
export interface Line {
  socket: Socket
  /** What was agreed on; null: nothing is encrypted. */
  agreed: string | null
}

type Wanted = Pick<HttpSettings, 'base' | 'trust' | 'proxy' | 'patience'>
type Around = Pick<Access, 'pair' | 'proxyPassword'> & { wire: Wire }

/** Connects, and agrees on TLS; rejects with a Fault. */
export const dialApi = async (settings: Wanted, around: Around, signal?: AbortSignal): Promise<Line> => {
  const { host, port, isEncrypted } = placeOfBase(settings.base)
  const { wire, pair } = around
  const socket = await connected(settings, around, signal)
  socket.setNoDelay(true)
  const line = isEncrypted ? await secured(socket, settings, { host, port, pair }) : { socket, agreed: null }
  if (isEncrypted || settings.proxy.kind !== 'none') wire.attendOne(line.socket, `${host}:${port}`)
  return line
}

const connected = ({ base, proxy, patience }: Wanted, { wire, proxyPassword }: Around, signal?: AbortSignal): Promise<Socket> => {
  const { host, port, isEncrypted } = placeOfBase(base)
  const aborting = signal ? { signal } : {}
  if (proxy.kind === 'none') return wire.dial({ host, port, connectMs: patience.connect, isSeen: !isEncrypted, ...aborting })
  return tunnelTo({ host, port }, { proxy, password: proxyPassword, connectMs: patience.connect, wire, ...aborting })
}

const secured = (
  socket: Socket,
  { trust, patience }: Wanted,
  { host, port, pair }: { host: string; port: number; pair: Access['pair'] },
): Promise<Line> =>
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
        ...(pair ?? {}),
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
