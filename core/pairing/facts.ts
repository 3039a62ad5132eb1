import { z } from 'zod'

/** How two copies pair, in this version. */
export const pairingForm = 1

/** With whom a link or an outlet is paired. */
export const pairedWith = z.object({
  name: z.string().trim().min(1, 'The name of the other copy.').max(120, 'A name has at most 120 characters.'),
  fingerprint: z
    .string()
    .regex(/^[0-9a-f]{64}$/, 'A fingerprint is SHA-256 in hexadecimal.')
    .describe('SHA-256 of the certificate that it was paired with, hexadecimal. It shows this one, or it is another.'),
})
export type PairedWith = z.output<typeof pairedWith>

/** What two copies tell each other of themselves while they pair. */
export const partnerFacts = z.object({
  form: z.int(),
  /** Of its site. */
  name: z.string().trim().max(120),
  version: z.string().max(40),
  /** Its application URI. */
  uri: z.string().max(4096),
  /** Its clock, ms since 1970. */
  now: z.number(),
})
export type PartnerFacts = z.output<typeof partnerFacts>

/** Clocks that differ by more make certificates look as if they were not valid. */
export const mostApartMs = 12 * 3_600_000
