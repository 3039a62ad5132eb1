/** What a certificate says of itself. Times are Unix milliseconds. */
export interface CertificateFacts {
  subject: string
  /** The common name, else the whole subject. */
  name: string
  issuer: string
  selfSigned: boolean
  isAuthority: boolean
  validFrom: number
  validTo: number
  /** Host names and numeric addresses that it is for. */
  hosts: string[]
  applicationUri: string | null
  keyBits: number | null
  /** SHA-256 and SHA-1 of the DER, hexadecimal; panels of older devices show the latter. */
  fingerprint: string
  fingerprintSha1: string
}

export interface CertificateProblem {
  kind: 'expired' | 'not-yet' | 'host' | 'key-short' | 'uri'
  text: string
}

interface Expected {
  now: number
  /** The host that was dialled; null where a certificate is not for a host. */
  host: string | null
  /** The application URI that the far side gave for itself. */
  applicationUri: string | null
}

const shortestKey = 2048

/** Everything that speaks against a certificate (OPC 10000-4, 6.1.3), in the order of weight. */
export const judge = (facts: CertificateFacts, expected: Expected): CertificateProblem[] =>
  [
    keyProblem(facts),
    timeProblem(facts, expected.now),
    hostProblem(facts, expected.host),
    uriProblem(facts, expected.applicationUri),
  ].filter((problem) => problem !== null)

const day = (time: number) => new Date(time).toISOString().slice(0, 10)

const keyProblem = ({ keyBits }: CertificateFacts): CertificateProblem | null =>
  keyBits !== null && keyBits < shortestKey
    ? { kind: 'key-short', text: `its key has ${keyBits} bits, and today’s policies ask for ${shortestKey} at least` }
    : null

const timeProblem = ({ validFrom, validTo }: CertificateFacts, now: number): CertificateProblem | null => {
  if (now > validTo) return { kind: 'expired', text: `it expired on ${day(validTo)}` }
  if (now < validFrom) return { kind: 'not-yet', text: `it is valid from ${day(validFrom)} on, and here it is ${day(now)}` }
  return null
}

const hostProblem = ({ hosts }: CertificateFacts, host: string | null): CertificateProblem | null => {
  if (host === null || hosts.some((name) => sameHost(name, host))) return null
  const names = hosts.length > 0 ? hosts.join(', ') : 'no host at all'
  return { kind: 'host', text: `it is for ${names}, and we dialled ${host}` }
}

const loopbackNames = new Set(['127.0.0.1', '::1', 'localhost'])

/** Names differ by case and a last dot only; the names of loopback are one. */
const sameHost = (a: string, b: string) => {
  const [left, right] = [a, b].map((name) => name.toLowerCase().replace(/\.$/, '')) as [string, string]
  return left === right || (loopbackNames.has(left) && loopbackNames.has(right))
}

const uriProblem = ({ applicationUri }: CertificateFacts, expected: string | null): CertificateProblem | null =>
  expected === null || applicationUri === expected
    ? null
    : { kind: 'uri', text: `it names the application ${applicationUri ?? '(none)'}, and the server calls itself ${expected}` }

/** Fingerprints are compared by people: pairs of digits in groups of four. */
export const fingerprintText = (hex: string) =>
  hex
    .toUpperCase()
    .match(/.{1,8}/g)!
    .map((group) => group.match(/../g)!.join(' '))
    .join(' · ')

/** What a person may accept with open eyes; a key that anybody can break is not among it. */
export const isAcceptable = (problem: CertificateProblem) => problem.kind !== 'key-short'
