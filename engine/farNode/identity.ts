import { createPrivateKey, createPublicKey, type KeyObject } from 'node:crypto'
import { existsSync, mkdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { z } from 'zod'
import type { Seal } from '#security/seal'
import { keyFingerprint } from '#security/siteAuthority'
import { writeWhole } from '#security/wholeFile'

const kept = z.object({
  node: z.int(),
  name: z.string(),
  site: z.string(),
  host: z.string(),
  port: z.int(),
  /** Sealed, PEM inside. */
  key: z.string(),
  certificate: z.string(),
  authority: z.string(),
})
type Kept = z.output<typeof kept>

const fileIn = (stateFolder: string) => join(stateFolder, 'node.json')

/** Which node of which site this machine is, and what proves it. */
export class NodeIdentity {
  private constructor(
    private stateFolder: string,
    private seal: Seal,
    private facts: Kept,
  ) {}

  /** Null: this machine is no node. Throws where the file is there and cannot be read. */
  static load(stateFolder: string, seal: Seal): NodeIdentity | null {
    const file = fileIn(stateFolder)
    if (!existsSync(file)) return null
    return new NodeIdentity(stateFolder, seal, kept.parse(JSON.parse(readFileSync(file, 'utf8'))))
  }

  static save(stateFolder: string, seal: Seal, facts: Kept): NodeIdentity {
    mkdirSync(stateFolder, { recursive: true })
    const identity = new NodeIdentity(stateFolder, seal, { ...facts, key: seal.close(facts.key) })
    identity.keep()
    return identity
  }

  get node() {
    return this.facts.node
  }
  get name() {
    return this.facts.name
  }
  get site() {
    return this.facts.site
  }
  /** Where the site is dialled. */
  get place(): { host: string; port: number } {
    return this.facts
  }
  get certificate() {
    return this.facts.certificate
  }
  get authority() {
    return this.facts.authority
  }
  /** PEM. Never leaves the process. */
  get key(): string {
    return this.seal.open(this.facts.key)
  }
  get privateKey(): KeyObject {
    return createPrivateKey(this.key)
  }
  get fingerprint(): string {
    return keyFingerprint(createPublicKey(this.privateKey).export({ format: 'pem', type: 'spki' }).toString())
  }

  /** How the site calls it and itself by now. */
  called(name: string, site: string) {
    if (name === this.facts.name && site === this.facts.site) return
    this.facts = { ...this.facts, name, site }
    this.keep()
  }

  renew(certificate: string) {
    this.facts = { ...this.facts, certificate }
    this.keep()
  }

  private keep() {
    writeWhole(fileIn(this.stateFolder), JSON.stringify(this.facts, null, 2))
  }
}
