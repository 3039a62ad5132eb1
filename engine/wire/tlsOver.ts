import { isIP, type Socket } from 'node:net'
import type { Duplex } from 'node:stream'
import { connect, type TLSSocket } from 'node:tls'
import { tlsDemands, type TlsSettings } from '#core/contracts/protection'
import type { OwnPair } from '../trust/ownPair'

/** What goes over TLS, and what was agreed there. */
export interface Secured {
  stream: Duplex
  /** Null: nothing is encrypted. */
  agreed: string | null
}

interface Wanted {
  /** By which name its certificate has to be. */
  host: string
  tls: TlsSettings
  /** How long it may take, ms. */
  within: number
  pair?: OwnPair | null
}

/** TLS over a connection that stands, where it is wanted. Rejects with an error that says the problem; the connection is closed then. */
export const tlsOver = async (socket: Socket, { host, tls, within, pair = null }: Wanted): Promise<Secured> => {
  const demands = tlsDemands(tls)
  if (!demands) return { stream: socket, agreed: null }
  const name = isIP(host) === 0 ? { servername: host } : {}
  return new Promise((resolve, reject) => {
    let stream: TLSSocket
    const fail = (problem: string) => {
      clearTimeout(timer)
      socket.destroy()
      reject(new Error(problem))
    }
    const timer = setTimeout(() => fail(`it did not answer within ${within} ms`), within)
    try {
      stream = connect({ socket, host, ...name, ...demands, ...(pair ?? {}), minVersion: 'TLSv1.2' })
    } catch (error) {
      return fail((error as Error).message)
    }
    stream.once('error', (error) => fail(error.message))
    stream.once('close', () => fail('it closed the connection'))
    stream.once('secureConnect', () => {
      clearTimeout(timer)
      stream.removeAllListeners('error').removeAllListeners('close')
      const { subject } = stream.getPeerCertificate()
      resolve({ stream, agreed: `${stream.getProtocol() ?? 'TLS'}, certificate of ${[subject?.CN].flat().join(', ') || 'nobody'}` })
    })
  })
}
