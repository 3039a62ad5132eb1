import { createCipheriv, createDecipheriv, hkdfSync, randomBytes } from 'node:crypto'

/**
 * Seals secrets for the database with AES-256-GCM. The key is kept outside of it, in the state
 * folder; a sealed secret is version, nonce, tag and cipher text, Base64.
 */
export class Seal {
  private key: Buffer

  /** @param secret of the installation, from which the key is derived (RFC 5869). */
  constructor(secret: string) {
    if (secret.length < 24) throw new Error('The secret for sealing is too short; secrets.json in the state folder is damaged.')
    this.key = Buffer.from(hkdfSync('sha256', secret, '', 'sealed settings', 32))
  }

  close(plain: string): string {
    const nonce = randomBytes(12)
    const cipher = createCipheriv('aes-256-gcm', this.key, nonce)
    const text = Buffer.concat([cipher.update(plain, 'utf8'), cipher.final()])
    return Buffer.concat([Buffer.of(version), nonce, cipher.getAuthTag(), text]).toString('base64')
  }

  /** Throws where the seal was made with another key or is damaged. */
  open(sealed: string): string {
    const bytes = Buffer.from(sealed, 'base64')
    if (bytes.length < 29 || bytes[0] !== version) throw new Error('This secret was not sealed here.')
    const decipher = createDecipheriv('aes-256-gcm', this.key, bytes.subarray(1, 13))
    decipher.setAuthTag(bytes.subarray(13, 29))
    return Buffer.concat([decipher.update(bytes.subarray(29)), decipher.final()]).toString('utf8')
  }
}

const version = 1
