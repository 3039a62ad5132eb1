import {
  createCipheriv,
  createDecipheriv,
  createPublicKey,
  diffieHellman,
  generateKeyPairSync,
  hkdfSync,
  randomBytes,
  type KeyObject,
} from 'node:crypto'

/**
 * Secrets on their way to one node, to be opened by its key only: a key of P-256 for this secret alone, agreed on with that of the node
 * (NIST SP 800-56A, 6.2.2), HKDF-SHA256 (RFC 5869), AES-256-GCM. Base64 of the passing public key (SPKI, 91 bytes), nonce, tag, cipher text.
 */
export const sealFor = (node: KeyObject, plain: string): string => {
  const passing = generateKeyPairSync('ec', { namedCurve: 'P-256' })
  const spki = passing.publicKey.export({ format: 'der', type: 'spki' })
  const nonce = randomBytes(nonceBytes)
  const cipher = createCipheriv('aes-256-gcm', keyOf(diffieHellman({ privateKey: passing.privateKey, publicKey: node }), spki), nonce)
  const text = Buffer.concat([cipher.update(plain, 'utf8'), cipher.final()])
  return Buffer.concat([spki, nonce, cipher.getAuthTag(), text]).toString('base64')
}

/** Throws where it was sealed for another node, or is damaged. @param key the node’s private one */
export const openAt = (key: KeyObject, sealed: string): string => {
  const bytes = Buffer.from(sealed, 'base64')
  if (bytes.length < spkiBytes + nonceBytes + tagBytes) throw new Error('This secret was not sealed for this node.')
  const spki = bytes.subarray(0, spkiBytes)
  const passing = createPublicKey({ key: spki, format: 'der', type: 'spki' })
  const nonce = bytes.subarray(spkiBytes, spkiBytes + nonceBytes)
  const decipher = createDecipheriv('aes-256-gcm', keyOf(diffieHellman({ privateKey: key, publicKey: passing }), spki), nonce)
  decipher.setAuthTag(bytes.subarray(spkiBytes + nonceBytes, spkiBytes + nonceBytes + tagBytes))
  return Buffer.concat([decipher.update(bytes.subarray(spkiBytes + nonceBytes + tagBytes)), decipher.final()]).toString('utf8')
}

const spkiBytes = 91
const nonceBytes = 12
const tagBytes = 16
const keyOf = (agreed: Buffer, spki: Buffer) => Buffer.from(hkdfSync('sha256', agreed, spki, 'secrets of a node', 32))
