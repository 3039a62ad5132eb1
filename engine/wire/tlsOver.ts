import { isIP, type Socket } from 'node:net'
import { connect, type TLSSocket } from 'node:tls'
import { tlsDemands, type TlsSettings } from '#core/contracts/protection'
import type { OwnPair } from '../trust/ownPair'

/** What goes over TLS, and what was agreed there. */
export interface Secured {
  stream: Socket
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
  /** What is to be spoken over it (RFC 7301). */
  speaks?: string[]
  /** Hears which certificate it showed (SHA-1, hexadecimal), also where that was not believed. */
  shown?: (certificate: string) => void
}

/** TLS over a connection that stands, where it is wanted. Rejects with an error that says the problem; the connection is closed then. */
export const tlsOver = async (socket: Socket, { host, tls, within, pair = null, speaks, shown }: Wanted): Promise<Secured> => {
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
      stream = connect({
        socket,
        host,
        ...name,
        ...demands,
        // looked at below, while the certificate is still there to be told
        rejectUnauthorized: false,
        ...(pair ?? {}),
        ...(speaks ? { ALPNProtocols: speaks } : {}),
        minVersion: 'TLSv1.2',
      })
    } catch (error) {
      return fail((error as Error).message)
    }
    stream.once('error', (error) => fail(whyNot(error, stream)))
    stream.once('close', () => fail('it closed the connection'))
    stream.once('secureConnect', () => {
      clearTimeout(timer)
      stream.removeAllListeners('error').removeAllListeners('close')
      // an end may hear only now that the other does not want it, and whoever is to use it may not listen yet
      stream.on('error', (error) => endings.has(stream) || endings.set(stream, tlsWords(error)))
      const { subject, valid_to: until, fingerprint, subjectaltname } = stream.getPeerCertificate()
      if (fingerprint) shown?.(fingerprint.replaceAll(':', '').toLowerCase())
      if (demands.rejectUnauthorized && !stream.authorized)
        return fail(notBelieved(String(stream.authorizationError), host, subjectaltname ?? 'none'))
      const whose = [subject?.CN].flat().join(', ') || 'nobody'
      resolve({ stream, agreed: `${stream.getProtocol() ?? 'TLS'}, certificate of ${whose}, valid until ${until}` })
    })
  })
}

const endings = new WeakMap<object, string>()

/** What TLS said when this connection ended after it had stood; null: nothing. */
export const tlsEnding = (stream: object): string | null => endings.get(stream) ?? null

/** In words, without where in its library it was noticed. */
const tlsWords = (error: Error & { reason?: string; library?: string }): string =>
  error.library && error.reason ? error.reason : error.message

/** One that ends a handshake says more by how far it had come. */
const whyNot = (error: Error, stream: TLSSocket): string => {
  const words = tlsWords(error)
  const cipher = stream.getCipher() as { name: string; version: string } | undefined
  return /handshake failure/.test(words) && cipher ? `${words}, after ${cipher.version} and ${cipher.name} were agreed on` : words
}

const doubts: Record<string, string> = {
  DEPTH_ZERO_SELF_SIGNED_CERT: 'self-signed certificate',
  SELF_SIGNED_CERT_IN_CHAIN: 'self-signed certificate in certificate chain',
  UNABLE_TO_VERIFY_LEAF_SIGNATURE: 'unable to verify the first certificate',
  UNABLE_TO_GET_ISSUER_CERT_LOCALLY: 'unable to get local issuer certificate',
  CERT_HAS_EXPIRED: 'certificate has expired',
  CERT_NOT_YET_VALID: 'certificate is not yet valid',
}

/** Why a certificate is not believed, from how its library calls that. */
const notBelieved = (code: string, host: string, names: string): string =>
  code === 'ERR_TLS_CERT_ALTNAME_INVALID' ? `${host} does not match certificate's altnames: ${names}` : (doubts[code] ?? code)
