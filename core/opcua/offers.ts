import type { CertificateFacts } from '../certificates/judge'
import type { Mode, Policy } from './settings'

export type IdentityKind = 'anonymous' | 'password' | 'certificate'

/** One way into a server, as it offers it, and how it can be reached from here. */
export interface Offer {
  policy: Policy
  mode: Mode
  identities: IdentityKind[]
  /** The address that the server gives for it. */
  url: string
  /** The address that did answer, where this machine cannot use the server's own. */
  answersAs: string
  /** Why `answersAs` is another one; empty when it is not. */
  note: string
  certificate: { facts: CertificateFacts; der: string } | null
  level: number
}

/** One server behind an address, as it or a discovery server knows it. */
export interface FoundServer {
  name: string
  applicationUri: string
  addresses: string[]
  isThisOne: boolean
}

export interface Found {
  servers: FoundServer[]
  offers: Offer[]
}

const policyRank: Record<Policy, number> = { None: 0, Basic256Sha256: 2, Aes128_Sha256_RsaOaep: 1, Aes256_Sha256_RsaPss: 3 }
export const modeRank: Record<Mode, number> = { None: 0, Sign: 1, SignAndEncrypt: 2 }

/** The safest first: encrypted before signed before none, then by the strength of the policy. */
export const safestFirst = (offers: readonly Offer[]): Offer[] =>
  [...offers].sort((a, b) => modeRank[b.mode] - modeRank[a.mode] || policyRank[b.policy] - policyRank[a.policy] || b.level - a.level)

export const identityText: Record<IdentityKind, string> = {
  anonymous: 'anonymous',
  password: 'name and password',
  certificate: 'certificate',
}

/** How we sign in; `ours`: by the certificate that our channels show, too. */
export type SignInKind = IdentityKind | 'ours'
export const signInText: Record<SignInKind, string> = { ...identityText, ours: 'our own certificate' }
/** What has to be taken there. */
export const tokenFor = (kind: SignInKind): IdentityKind => (kind === 'ours' ? 'certificate' : kind)
