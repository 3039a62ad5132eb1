import 'reflect-metadata'
import {
  BasicConstraintsExtension,
  cryptoProvider,
  ExtendedKeyUsage,
  ExtendedKeyUsageExtension,
  KeyUsageFlags,
  KeyUsagesExtension,
  PublicKey,
  X509Certificate as Certificate,
  X509CertificateGenerator,
} from '@peculiar/x509'
import { createHash, createPrivateKey, createPublicKey, randomBytes, webcrypto, X509Certificate } from 'node:crypto'
import { existsSync, mkdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import type { Seal } from './seal'
import { writeWhole } from './wholeFile'
import type { KeyPair } from './selfSigned'

cryptoProvider.set(webcrypto as never)

const signing = { name: 'ECDSA', namedCurve: 'P-256', hash: 'SHA-256' }
const dayMs = 86_400_000
const authorityDays = 20 * 365
const issuedDays = 2 * 365
/** The clocks of others may be a little behind. */
const graceDays = 1

/**
 * What vouches for the machines of one site to each other: the site’s own authority. Made on first use and kept in the state folder,
 * its key sealed. Keys are P-256 (RFC 5480), certificates by RFC 5280.
 */
export class SiteAuthority {
  private constructor(
    /** PEM. */
    readonly pem: string,
    private certificate: Certificate,
    private key: webcrypto.CryptoKey,
  ) {}

  static async load(stateFolder: string, seal: Seal): Promise<SiteAuthority> {
    const folder = join(stateFolder, 'authority')
    const [certificateFile, keyFile] = [join(folder, 'authority.pem'), join(folder, 'authority.key.sealed')]
    if (!existsSync(certificateFile)) {
      mkdirSync(folder, { recursive: true, mode: 0o700 })
      const pair = await makeAuthority()
      writeWhole(keyFile, seal.close(pair.key))
      writeWhole(certificateFile, pair.certificate)
    }
    const pem = readFileSync(certificateFile, 'utf8')
    return new SiteAuthority(pem, new Certificate(pem), await signingKey(seal.open(readFileSync(keyFile, 'utf8'))))
  }

  /** SHA-256, hexadecimal. */
  get fingerprint(): string {
    return new X509Certificate(this.pem).fingerprint256.replaceAll(':', '').toLowerCase()
  }

  /** A certificate for the key of a node. @param publicKey PEM (SPKI) @returns PEM */
  async issueTo(name: string, publicKey: string): Promise<string> {
    return this.issue(name, new PublicKey(publicKey), ExtendedKeyUsage.clientAuth)
  }

  /** A key and a certificate for a door at which nodes come in: whoever comes knows the authority, by whatever address it came. */
  async door(): Promise<KeyPair> {
    const { publicKey, privateKey } = await newKeys()
    const certificate = await this.issue('Door of nodes', new PublicKey(publicKey), ExtendedKeyUsage.serverAuth)
    return { certificate, key: privateKey }
  }

  private async issue(name: string, publicKey: PublicKey, usage: ExtendedKeyUsage): Promise<string> {
    const issued = await X509CertificateGenerator.create({
      ...{ serialNumber: newSerial(), issuer: this.certificate.subject, subject: [{ CN: [name] }], ...validFor(issuedDays) },
      ...{ publicKey, signingKey: this.key, signingAlgorithm: signing },
      extensions: [
        new BasicConstraintsExtension(false, undefined, true),
        new KeyUsagesExtension(KeyUsageFlags.digitalSignature, true),
        new ExtendedKeyUsageExtension([usage]),
      ],
    })
    return issued.toString('pem')
  }
}

/** A new pair of keys, PEM. */
export const newKeys = async (): Promise<{ publicKey: string; privateKey: string }> => {
  const { privateKey } = await webcrypto.subtle.generateKey(signing, true, ['sign', 'verify'])
  const pkcs8 = Buffer.from(await webcrypto.subtle.exportKey('pkcs8', privateKey))
  const key = createPrivateKey({ key: pkcs8, format: 'der', type: 'pkcs8' })
  return {
    privateKey: key.export({ format: 'pem', type: 'pkcs8' }).toString(),
    publicKey: createPublicKey(key).export({ format: 'pem', type: 'spki' }).toString(),
  }
}

/** By what a node is known, whatever certificate it has: SHA-256 of its public key (SPKI, DER), hexadecimal. @param publicKey PEM */
export const keyFingerprint = (publicKey: string): string =>
  createHash('sha256')
    .update(createPublicKey(publicKey).export({ format: 'der', type: 'spki' }))
    .digest('hex')

const makeAuthority = async (): Promise<KeyPair> => {
  const keys = await webcrypto.subtle.generateKey(signing, true, ['sign', 'verify'])
  const certificate = await X509CertificateGenerator.createSelfSigned({
    ...{ serialNumber: newSerial(), name: `CN=Site authority ${randomBytes(3).toString('hex')}`, ...validFor(authorityDays) },
    ...{ keys, signingAlgorithm: signing },
    extensions: [
      new BasicConstraintsExtension(true, 0, true),
      new KeyUsagesExtension(KeyUsageFlags.keyCertSign | KeyUsageFlags.cRLSign, true),
    ],
  })
  const pkcs8 = Buffer.from(await webcrypto.subtle.exportKey('pkcs8', keys.privateKey))
  const key = createPrivateKey({ key: pkcs8, format: 'der', type: 'pkcs8' }).export({ format: 'pem', type: 'pkcs8' })
  return { certificate: certificate.toString('pem'), key: key.toString() }
}

const signingKey = (pem: string): Promise<webcrypto.CryptoKey> =>
  webcrypto.subtle.importKey('pkcs8', createPrivateKey(pem).export({ format: 'der', type: 'pkcs8' }), signing, false, ['sign'])

/** Positive, and never twice (RFC 5280, 4.1.2.2). */
const newSerial = () => `01${randomBytes(15).toString('hex')}`

const validFor = (days: number) => ({
  notBefore: new Date(Date.now() - graceDays * dayMs),
  notAfter: new Date(Date.now() + days * dayMs),
})
