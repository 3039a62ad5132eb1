import { fault, type Fault } from '#core/faults/catalogue'
import { fingerprintText, isAcceptable, judge, type CertificateFacts, type CertificateProblem } from '#core/certificates/judge'
import type { ShownCertificate } from '#shared/certificates'
import { certificateFacts } from '#security/certificateFacts'
import type { PairedWith } from '#core/pairing/facts'
import type { TrustBook } from '../../trust/trustBook'
import type { Named } from './reaching'

interface Judged {
  shown: ShownCertificate
  /** Null: it may be used. */
  fault: Fault | null
}

interface Expected extends Named {
  /** Only the certificate that was paired with will do. */
  paired: PairedWith | null
}

/** Judges the certificate that a server showed, by what is wrong with it and by what was decided here. */
export const judgeServer = (der: Buffer, { host, applicationUri, paired }: Expected, trust: Pick<TrustBook, 'verdictOn'>): Judged => {
  const facts = certificateFacts(der)
  const problems = judge(facts, { now: Date.now(), host, applicationUri })
  const shown = { facts, problems, der: der.toString('base64') }
  if (paired && paired.fingerprint !== facts.fingerprint) return { shown, fault: swapped(paired, facts) }
  const hopeless = problems.find((problem) => !isAcceptable(problem))
  if (hopeless) return { shown, fault: faultOf(hopeless, facts, host, applicationUri) }
  const verdict = trust.verdictOn(der)
  if (verdict.kind === 'refused') return { shown, fault: fault('certificate.refused', { name: facts.name }) }
  const accepted = verdict.kind === 'trusted' ? verdict.despite : []
  const open = problems.find(({ kind }) => !accepted.includes(kind))
  if (open) return { shown, fault: faultOf(open, facts, host, applicationUri) }
  return {
    shown,
    fault:
      verdict.kind === 'trusted'
        ? null
        : fault('certificate.unknown', { name: facts.name }, `issued by ${facts.selfSigned ? 'itself' : facts.issuer}`),
  }
}

const swapped = ({ name, fingerprint }: PairedWith, facts: CertificateFacts): Fault =>
  fault(
    'pairing.swapped',
    { name },
    `paired with ${fingerprintText(fingerprint)}, shown ${fingerprintText(facts.fingerprint)} of “${facts.name}”`,
  )

const faultOf = (problem: CertificateProblem, facts: CertificateFacts, host: string | null, expectedUri: string | null): Fault => {
  const { name, hosts, validFrom, validTo, applicationUri, keyBits } = facts
  switch (problem.kind) {
    case 'expired':
      return fault('certificate.expired', { name, until: validTo, ours: false }, problem.text)
    case 'not-yet':
      return fault('certificate.not-yet', { name, from: validFrom, now: Date.now() }, problem.text)
    case 'host':
      return fault('certificate.host', { name, hosts: hosts.join(', ') || 'no host at all', dialled: host ?? 'no host' }, problem.text)
    case 'key-short':
      return fault('certificate.key-short', { name, bits: keyBits ?? 0, least: 2048 }, problem.text)
    case 'uri':
      return fault('certificate.uri', { name, uri: applicationUri ?? 'none', expected: expectedUri ?? 'none' }, problem.text)
  }
}
