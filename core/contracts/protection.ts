import { z } from 'zod'
import { secretField } from './secret'

/** How a connection of ours is protected by TLS, whatever goes over it. */
export const tlsModes = ['off', 'encrypted', 'verified'] as const
export type TlsMode = (typeof tlsModes)[number]

/** A certificate, or several, in PEM; empty: none. */
export const certificateText = z
  .string()
  .trim()
  .max(100_000, 'At most 100,000 characters.')
  .refine(
    (text) => text === '' || text.includes('-----BEGIN CERTIFICATE-----'),
    'A certificate in PEM begins with -----BEGIN CERTIFICATE-----.',
  )

export const tlsField = z
  .object({
    mode: z.enum(tlsModes).default('off').describe('“verified”: their certificate has to be of this name, and of a known authority.'),
    authority: certificateText
      .default('')
      .describe('Certificates of authorities to believe, in PEM; empty: those that this machine knows.'),
  })
  .prefault({})
export type TlsSettings = z.output<typeof tlsField>

/** Whether a connection would be less protected than before. */
export const isLessProtected = (before: TlsSettings, after: TlsSettings) => tlsModes.indexOf(after.mode) < tlsModes.indexOf(before.mode)

/** What is asked of the other side's certificate, as Node.js takes it; null: nothing is encrypted. */
export const tlsDemands = ({ mode, authority }: TlsSettings): { rejectUnauthorized: boolean; ca?: string } | null => {
  if (mode === 'off') return null
  return mode === 'encrypted' ? { rejectUnauthorized: false } : { rejectUnauthorized: true, ...(authority === '' ? {} : { ca: authority }) }
}

/** By which certificate of ours we show who we are. */
export const clientCertificate = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('none') }),
  z.object({ kind: z.literal('ours') }).describe('The one by which this application shows itself everywhere.'),
  z.object({
    kind: z.literal('own'),
    certificate: certificateText.refine((text) => text !== '', 'A certificate, in PEM.'),
    key: secretField('The private key of the certificate, in PEM.'),
  }),
])
export type ClientCertificate = z.output<typeof clientCertificate>
