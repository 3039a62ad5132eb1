import { createPrivateKey, randomBytes, X509Certificate } from 'node:crypto'
import { existsSync, mkdirSync, readFileSync } from 'node:fs'
import { hostname, networkInterfaces } from 'node:os'
import { join } from 'node:path'
import { fault, type Fault } from '#core/faults/catalogue'
import { certificateFacts } from './certificateFacts'
import type { Seal } from './seal'
import { derOf, makeSelfSigned, type KeyPair } from './selfSigned'
import { writeWhole } from './wholeFile'

/** The name under which this application shows itself to others. */
export const applicationName = 'Keen Conduit'

/** Machines that are copies of one image have one name; each copy of the application is known by a URI of its own nevertheless. */
const newUri = () => `urn:${hostname()}:keen-conduit:${randomBytes(4).toString('hex')}`

/** The application's own certificate: made on first start, kept in the state folder, its key sealed. */
export class OwnCertificate {
  private listeners = new Set<() => void>()

  private constructor(
    private folder: string,
    private seal: Seal,
    private pair: KeyPair,
  ) {}

  static async load(stateFolder: string, seal: Seal): Promise<OwnCertificate> {
    const folder = join(stateFolder, 'certificate')
    mkdirSync(folder, { recursive: true, mode: 0o700 })
    if (existsSync(certificateFile(folder))) return new OwnCertificate(folder, seal, readPair(folder, seal))
    const own = new OwnCertificate(folder, seal, await madeAnew(newUri()))
    own.keep()
    return own
  }

  get der(): Buffer {
    return derOf(this.pair.certificate)
  }

  get pem(): string {
    return this.pair.certificate
  }

  /** PEM. Never leaves the process. */
  get key(): string {
    return this.pair.key
  }

  get facts() {
    return certificateFacts(this.pair.certificate)
  }

  /** The URI by which others know us; the certificate has the say (OPC 10000-4, 6.1.3). */
  get uri(): string {
    return this.facts.applicationUri ?? applicationName
  }

  /** Takes another pair, or says why it cannot be ours. */
  replace(pair: KeyPair): Fault | null {
    const problem = pairProblem(pair)
    if (problem) return problem
    this.pair = { certificate: new X509Certificate(pair.certificate).toString(), key: pair.key }
    this.keep()
    this.tell()
    return null
  }

  async renew() {
    this.pair = await madeAnew(this.facts.applicationUri ?? newUri())
    this.keep()
    this.tell()
  }

  /** Whoever shows it to others has to show the new one. */
  onChange(listener: () => void): () => void {
    this.listeners.add(listener)
    return () => this.listeners.delete(listener)
  }

  private tell() {
    for (const listener of this.listeners) listener()
  }

  private keep() {
    const { folder } = this
    writeWhole(keyFile(folder), this.seal.close(this.pair.key))
    writeWhole(certificateFile(folder), this.pair.certificate)
  }
}

const certificateFile = (folder: string) => join(folder, 'own.pem')
const keyFile = (folder: string) => join(folder, 'own.key.sealed')

const readPair = (folder: string, seal: Seal): KeyPair => ({
  certificate: readFileSync(certificateFile(folder), 'utf8'),
  key: seal.open(readFileSync(keyFile(folder), 'utf8')),
})

const madeAnew = (applicationUri: string) =>
  makeSelfSigned({
    commonName: `${applicationName} on ${hostname()}`,
    organization: applicationName,
    applicationUri,
    dns: [...new Set([hostname(), 'localhost'])],
    ip: ownAddresses(),
  })

/** The numeric addresses of this machine that others may dial. */
const ownAddresses = (): string[] => {
  const found = Object.values(networkInterfaces()).flatMap((entries) => entries ?? [])
  return [
    ...new Set(['127.0.0.1', ...found.filter(({ family, internal }) => family === 'IPv4' && !internal).map(({ address }) => address)]),
  ]
}

const shortestKey = 2048

const pairProblem = ({ certificate, key }: KeyPair): Fault | null => {
  let x509: X509Certificate
  try {
    x509 = new X509Certificate(certificate)
  } catch (error) {
    return fault('certificate.unreadable', { what: 'certificate' }, (error as Error).message)
  }
  try {
    if (!x509.checkPrivateKey(createPrivateKey(key))) return fault('certificate.key-mismatch', { name: certificateFacts(certificate).name })
  } catch (error) {
    return fault('certificate.unreadable', { what: 'private key' }, (error as Error).message)
  }
  const facts = certificateFacts(certificate)
  if (facts.keyBits === null || facts.keyBits < shortestKey)
    return fault('certificate.key-short', { name: facts.name, bits: facts.keyBits ?? 0, least: shortestKey })
  if (!facts.applicationUri) return fault('certificate.no-uri', { name: facts.name })
  if (facts.validTo < Date.now()) return fault('certificate.expired', { name: facts.name, until: facts.validTo, ours: true })
  return null
}
