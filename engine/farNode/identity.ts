import { createPrivateKey, createPublicKey, type KeyObject } from 'node:crypto'
import { existsSync, mkdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { z } from 'zod'
import type { Seal } from '#security/seal'
import { keyFingerprint } from '#security/siteAuthority'
import { writeWhole } from '#security/wholeFile'

const place = z.object({ host: z.string(), port: z.int() })
export type Place = z.output<typeof place>

/** Earlier versions knew one place. */
const withPlaces = (stored: unknown): unknown =>
  typeof stored === 'object' && stored !== null && 'host' in stored && 'port' in stored
    ? { ...stored, places: [{ host: stored.host, port: stored.port }] }
    : stored

const kept = z.object({
  node: z.int(),
  name: z.string(),
  site: z.string(),
  /** Where machines that may lead the site are reached. */
  places: z.array(place).max(50),
  /** Whether it stands by for the whole site. */
  standsBy: z.boolean().default(false),
  /** Sealed, PEM inside. */
  key: z.string(),
  certificate: z.string(),
  authority: z.string(),
})
type Kept = z.output<typeof kept>

const fileIn = (stateFolder: string) => join(stateFolder, 'node.json')

/** Which node of which site this machine is, and what proves it. */
export class NodeIdentity {
  private at = 0

  private constructor(
    private stateFolder: string,
    private seal: Seal,
    private facts: Kept,
  ) {}

  /** Null: this machine is no node. Throws where the file is there and cannot be read. */
  static load(stateFolder: string, seal: Seal): NodeIdentity | null {
    const file = fileIn(stateFolder)
    if (!existsSync(file)) return null
    return new NodeIdentity(stateFolder, seal, kept.parse(withPlaces(JSON.parse(readFileSync(file, 'utf8')))))
  }

  static save(stateFolder: string, seal: Seal, facts: z.input<typeof kept>): NodeIdentity {
    mkdirSync(stateFolder, { recursive: true })
    const identity = new NodeIdentity(stateFolder, seal, kept.parse({ ...facts, key: seal.close(facts.key) }))
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
  get standsBy() {
    return this.facts.standsBy
  }
  /** Where the site is dialled now; null: nobody else may lead it. */
  get place(): Place | null {
    return this.facts.places[this.at] ?? null
  }
  /** Nobody who leads is there: another place is dialled next. @returns whether all were tried */
  elsewhere(): boolean {
    this.at = (this.at + 1) % Math.max(1, this.facts.places.length)
    return this.at === 0
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

  /** How the site calls it and itself by now, and where else it may be reached; what is not said stays. */
  called(name: string, site: string, places: readonly Place[] = []) {
    const facts = { ...this.facts, name, site, places: places.length > 0 ? [...places] : this.facts.places }
    if (JSON.stringify(facts) === JSON.stringify(this.facts)) return
    this.at = Math.max(
      0,
      facts.places.findIndex(({ host, port }) => host === this.place?.host && port === this.place.port),
    )
    this.facts = facts
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
