import { hostname } from 'node:os'
import { fault, type Fault } from '#core/faults/catalogue'
import { mostApartMs, pairingForm, partnerFacts, type PartnerFacts } from '#core/pairing/facts'
import type { OwnCertificate } from '#security/ownCertificate'
import { unnamedSite } from '#shared/siteFacts'
import type { Surroundings } from './surroundings'
import packageJson from '../../package.json' with { type: 'json' }

/** What we say of ourselves; a site without a name goes by that of its machine. */
const ownFacts = (own: OwnCertificate, site: string): PartnerFacts => ({
  form: pairingForm,
  name: site === '' || site === unnamedSite ? hostname() : site,
  version: packageJson.version,
  uri: own.uri,
  now: Date.now(),
})

/** The same of a copy that pairs, each time as it is then. */
export const factsOf =
  ({ security, engine }: Surroundings) =>
  (): PartnerFacts =>
    ownFacts(security.own, engine.wanted.site.name)

/** Reads what the other copy says of itself, and whether the two can pair. */
export const judgeFacts = (text: string, now = Date.now()): { facts: PartnerFacts } | { fault: Fault } => {
  const read = partnerFacts.safeParse(parsed(text))
  if (!read.success) return { fault: fault('pairing.answer', { name: 'the other copy' }, text.slice(0, 200)) }
  const facts = { ...read.data, name: read.data.name || 'another copy' }
  const { form, name, version } = facts
  if (form !== pairingForm) return { fault: fault('pairing.form', { name, theirs: form, ours: pairingForm }, `it is version ${version}`) }
  const aheadMs = facts.now - now
  if (Math.abs(aheadMs) > mostApartMs) return { fault: fault('pairing.clock', { name, aheadMs }, evidenceOf(facts.now, now)) }
  return { facts }
}

const parsed = (text: string): unknown => {
  try {
    return JSON.parse(text)
  } catch {
    return null
  }
}

const evidenceOf = (theirs: number, ours: number) => `there ${moment(theirs)}, here ${moment(ours)}`
const moment = (ms: number) => (Math.abs(ms) <= 8.64e15 ? new Date(ms).toISOString() : String(ms))
