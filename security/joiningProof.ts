import { createHmac, timingSafeEqual } from 'node:crypto'

/** Who joins whom: the fingerprints of the site’s authority and of the node’s key, SHA-256, hexadecimal. */
export interface Joining {
  authority: string
  node: string
}

const said = (secret: Uint8Array, words: readonly string[]) => createHmac('sha256', secret).update(words.join('\n')).digest('hex')

/** By this a node says which code it means, and no more of it. */
export const joiningCall = (secret: Uint8Array): string => said(secret, ['call of a node']).slice(0, 32)

/**
 * What only who knows the secret of a code can say, and of this authority and this key only; each side says its own. HMAC-SHA256
 * (RFC 2104), hexadecimal.
 */
export const joiningProof = (secret: Uint8Array, who: 'node' | 'site', { authority, node }: Joining): string =>
  said(secret, ['join', who, authority, node])

export const isJoiningProof = (shown: string, secret: Uint8Array, who: 'node' | 'site', joining: Joining): boolean => {
  const [expected, given] = [joiningProof(secret, who, joining), shown].map((text) => Buffer.from(text, 'hex'))
  return given!.length === expected!.length && timingSafeEqual(given!, expected!)
}
