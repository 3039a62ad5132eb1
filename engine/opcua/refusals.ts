import { fault, type Fault } from '#core/faults/catalogue'
import { fingerprintText } from '#core/certificates/judge'
import { tcpFault } from '#core/faults/tcp'
import { statusWords } from '#core/tags/quality'
import type { OwnCertificate } from '#security/ownCertificate'

/** The first status code that an error of the package names. */
export const statusIn = (error: unknown): string | null => /\b(Bad[A-Z]\w+)/.exec((error as Error).message)?.[1] ?? null

export const refusedTo = (what: string, status: string, evidence = status): Fault =>
  fault('opcua.refused', { what, status, words: statusWords(status) }, evidence)

const ourCertificateRefused = new Set([
  'BadCertificateUntrusted',
  'BadCertificateUseNotAllowed',
  'BadCertificateRevoked',
  'BadCertificateIssuerRevoked',
])
const ourCertificateOdd = new Set(['BadCertificateTimeInvalid', 'BadCertificateIssuerTimeInvalid'])
const tooMany: Record<string, string> = {
  BadTooManySessions: 'sessions',
  BadTcpNotEnoughResources: 'connections',
  BadMaxConnectionsReached: 'connections',
  BadTooManySubscriptions: 'subscriptions',
  BadTooManyMonitoredItems: 'items',
}

interface Dialled {
  host: string
  port: number
  answerMs: number
}

/** What went wrong while the secure channel was made; nearly always it is trust. */
export const channelFault = (error: unknown, own: OwnCertificate, dialled: Dialled): Fault => {
  const status = statusIn(error)
  const evidence = status ?? (error as Error).message
  if (status && ourCertificateRefused.has(status))
    return fault(
      'opcua.we-are-refused',
      { ours: own.facts.name, fingerprint: fingerprintText(own.facts.fingerprintSha1), status },
      evidence,
    )
  if (status && ourCertificateOdd.has(status)) return fault('opcua.our-clock', { status }, evidence)
  if (status === 'BadSecurityChecksFailed' || status === 'BadSecureChannelClosed' || (!status && /disconnect|closed|reset/i.test(evidence)))
    return fault(
      'opcua.we-are-refused',
      { ours: own.facts.name, fingerprint: fingerprintText(own.facts.fingerprintSha1), status: status ?? '' },
      evidence,
    )
  if (status?.startsWith('BadCertificate') || status?.startsWith('BadSecurity')) return fault('opcua.security-failed', { status }, evidence)
  return generalFault(error, 'open a secure channel', dialled)
}

const userRefused = new Set(['BadIdentityTokenRejected', 'BadUserAccessDenied', 'BadIdentityTokenInvalid'])

/** What went wrong while the session was made and the user signed in. */
export const sessionFault = (error: unknown, user: string, own: OwnCertificate, dialled: Dialled): Fault => {
  const status = statusIn(error)
  if (status && userRefused.has(status)) return fault('opcua.user-refused', { user, status }, status)
  if (status?.startsWith('BadCertificate') || status === 'BadSecurityChecksFailed') return channelFault(error, own, dialled)
  return generalFault(error, 'open a session', dialled)
}

/** A service that failed for a reason that is not particular to it. */
export const generalFault = (error: unknown, what: string, { host, port, answerMs }: Dialled): Fault => {
  const status = statusIn(error)
  const { message, code } = error as { message: string; code?: string }
  if (status && tooMany[status]) return fault('opcua.too-many', { what: tooMany[status], status }, status)
  if (status === 'BadTimeout' || status === 'BadRequestTimeout' || /time.?out|no answer within/i.test(message))
    return fault('opcua.late', { what, ms: answerMs }, message)
  if (code) return tcpFault({ code, message }, host, port)
  if (!status && /disconnect|closed|not connected|Connection Break|ECONN|socket/i.test(message))
    return fault('opcua.connection-lost', { host, port }, message)
  return refusedTo(what, status ?? 'BadUnexpectedError', status ?? message)
}
