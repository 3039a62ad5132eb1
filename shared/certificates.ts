import { z } from 'zod'
import type { CertificateFacts, CertificateProblem } from '#core/certificates/judge'

/** A certificate that somebody here decided about. */
export interface KnownCertificate {
  id: number
  revision: number
  /** SHA-256 of the DER, hexadecimal. */
  fingerprint: string
  name: string
  verdict: 'trusted' | 'refused'
  /** DER as Base64. */
  der: string
  /** What was wrong with it when it was trusted, and accepted then. */
  despite: CertificateProblem['kind'][]
}

/** A certificate that stands at the door, or is shown: its facts and itself. */
export interface ShownCertificate {
  facts: CertificateFacts
  problems: CertificateProblem[]
  der: string
}

const problemKinds = ['expired', 'not-yet', 'host', 'key-short', 'uri'] as const satisfies CertificateProblem['kind'][]

/** A decision as it is stored. */
export const certificateContract = z.object({
  fingerprint: z.string().regex(/^[0-9a-f]{64}$/i, 'A fingerprint is SHA-256 in hexadecimal.'),
  name: z.string(),
  verdict: z.enum(['trusted', 'refused']),
  der: z.string().min(1),
  despite: z.array(z.enum(problemKinds)),
})

export const certificateDecision = z.object({
  der: z.string().min(1, 'The certificate itself, DER as Base64.').max(40_000, 'A certificate has at most 30,000 bytes.'),
  verdict: z.enum(['trusted', 'refused']),
  despite: z.array(z.enum(problemKinds)).max(problemKinds.length).default([]),
})

export const ownCertificateChange = z.object({
  certificate: z.string({ error: 'The certificate as PEM.' }).trim().min(1, 'The certificate as PEM.').max(40_000),
  key: z.string({ error: 'The private key as PEM.' }).trim().min(1, 'The private key as PEM.').max(40_000),
})
