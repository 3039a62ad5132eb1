import { z } from 'zod'
import type { CertificateFacts, CertificateProblem } from '#core/certificates/judge'
import { momentField } from '#core/contracts/fields'

const problemKinds = ['expired', 'not-yet', 'host', 'key-short', 'uri'] as const satisfies CertificateProblem['kind'][]

/** What a certificate says of itself (`CertificateFacts`). */
export const certificateFacts: z.ZodType<CertificateFacts> = z
  .object({
    subject: z.string(),
    name: z.string().describe('The common name, else the whole subject.'),
    issuer: z.string(),
    selfSigned: z.boolean(),
    isAuthority: z.boolean(),
    validFrom: momentField,
    validTo: momentField,
    hosts: z.array(z.string()).describe('Host names and numeric addresses that it is for.'),
    applicationUri: z.string().nullable(),
    keyBits: z.int().nullable(),
    fingerprint: z.string().describe('SHA-256 of the DER, hexadecimal.'),
    fingerprintSha1: z.string().describe('SHA-1 of the DER, hexadecimal; panels of older devices show it.'),
  })
  .meta({ id: 'CertificateFacts', description: 'What a certificate says of itself.' })

/** A certificate that stands at the door, or is shown: its facts and itself. */
export const shownCertificate = z
  .object({
    facts: certificateFacts,
    problems: z.array(z.object({ kind: z.enum(problemKinds), text: z.string() })),
    der: z.string().describe('DER as Base64.'),
  })
  .meta({ id: 'ShownCertificate' })
export type ShownCertificate = z.output<typeof shownCertificate>

/** A decision as it is stored. */
export const certificateContract = z.object({
  fingerprint: z
    .string()
    .regex(/^[0-9a-f]{64}$/i, 'A fingerprint is SHA-256 in hexadecimal.')
    .describe('SHA-256 of the DER, hexadecimal.'),
  name: z.string(),
  verdict: z.enum(['trusted', 'refused']),
  der: z.string().min(1).describe('DER as Base64.'),
  despite: z.array(z.enum(problemKinds)).describe('What was wrong with it when it was trusted, and accepted then.'),
})

/** A certificate that somebody here decided about. */
export const knownCertificate = certificateContract.extend({ id: z.int(), revision: z.int() }).meta({ id: 'KnownCertificate' })
export type KnownCertificate = z.output<typeof knownCertificate>

/** The same as lists show it: with who decided, and when. */
export const listedCertificate = knownCertificate
  .extend({ who: z.string(), at: z.iso.datetime(), facts: certificateFacts })
  .meta({ id: 'ListedCertificate' })
export type ListedCertificate = z.output<typeof listedCertificate>

/** The application's own certificate, without its key. */
export const ownCertificate = z.object({ facts: certificateFacts, pem: z.string() }).meta({ id: 'OwnCertificate' })
export type OwnCertificateFacts = z.output<typeof ownCertificate>

export const certificateDecision = z.object({
  der: z.string().min(1, 'The certificate itself, DER as Base64.').max(40_000, 'A certificate has at most 30,000 bytes.'),
  verdict: z.enum(['trusted', 'refused']),
  despite: z.array(z.enum(problemKinds)).max(problemKinds.length).default([]),
})

export const ownCertificateChange = z.object({
  certificate: z.string({ error: 'The certificate as PEM.' }).trim().min(1, 'The certificate as PEM.').max(40_000),
  key: z.string({ error: 'The private key as PEM.' }).trim().min(1, 'The private key as PEM.').max(40_000),
})
