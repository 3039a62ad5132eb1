import type { KnownCertificate } from '#shared/certificates'
import { certificateFacts, isIssuedBy } from '#security/certificateFacts'

export type Verdict = { kind: 'trusted'; despite: readonly string[] } | { kind: 'refused' } | { kind: 'unknown' }

interface Known extends KnownCertificate {
  bytes: Buffer
  isAuthority: boolean
}

/** Whom this site trusts and whom it refuses. Whoever depends on it is told when a decision changes. */
export class TrustBook {
  private known = new Map<string, Known>()
  private listeners = new Set<() => void>()

  /** Returns what is wrong with those that cannot be read, by id: they are as good as unknown. */
  set(certificates: Iterable<KnownCertificate>): Map<number, Error> {
    const problems = new Map<number, Error>()
    this.known = new Map()
    for (const certificate of certificates) {
      try {
        this.known.set(certificate.fingerprint, withBytes(certificate))
      } catch (error) {
        problems.set(certificate.id, error as Error)
      }
    }
    for (const listener of this.listeners) listener()
    return problems
  }

  /** A certificate decided about by itself, or issued by an authority that is trusted. */
  verdictOn(der: Buffer): Verdict {
    const own = this.known.get(certificateFacts(der).fingerprint)
    if (own) return own.verdict === 'trusted' ? { kind: 'trusted', despite: own.despite } : { kind: 'refused' }
    for (const { verdict, isAuthority, bytes } of this.known.values())
      if (isAuthority && isIssuedBy(der, bytes)) return verdict === 'trusted' ? { kind: 'trusted', despite: [] } : { kind: 'refused' }
    return { kind: 'unknown' }
  }

  onChange(listener: () => void): () => void {
    this.listeners.add(listener)
    return () => this.listeners.delete(listener)
  }
}

const withBytes = (certificate: KnownCertificate): Known => {
  const bytes = Buffer.from(certificate.der, 'base64')
  return { ...certificate, bytes, isAuthority: certificateFacts(bytes).isAuthority }
}
