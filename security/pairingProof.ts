import { createHmac, timingSafeEqual } from 'node:crypto'

/** Who proves: the copy whose values are taken, or the one that takes them. */
export type Prover = 'gives' | 'takes'

/** The fingerprints of both certificates, SHA-256, hexadecimal. */
export type BothFingerprints = Record<Prover, string>

const said = (secret: Uint8Array, words: readonly string[]) => createHmac('sha256', secret).update(words.join('\n')).digest('hex')

/**
 * What only who knows the secret of a code can say, and of these two certificates only: that the channel stands between their keys is
 * shown by the channel itself. Each side says its own, so that neither can be sent back. HMAC-SHA256 (RFC 2104), hexadecimal.
 */
export const pairingProof = (secret: Uint8Array, who: Prover, fingerprints: BothFingerprints): string =>
  said(secret, ['proof', who, fingerprints.gives, fingerprints.takes])

export const isPairingProof = (shown: string, secret: Uint8Array, who: Prover, fingerprints: BothFingerprints): boolean => {
  const expected = Buffer.from(pairingProof(secret, who, fingerprints), 'hex')
  const given = Buffer.from(shown, 'hex')
  return given.length === expected.length && timingSafeEqual(given, expected)
}

/** By this URI a copy that opens the connection says which code it means, and no more of it. */
export const pairingUri = (secret: Uint8Array): string => `${pairingUriStart}${said(secret, ['call']).slice(0, 32)}`
export const pairingUriStart = 'urn:keen-conduit:pairing:'
