import type { PartnerFacts } from '#core/pairing/facts'

/** The other copy, as it showed and proved itself. */
export interface Partner {
  facts: PartnerFacts
  der: Buffer
  /** SHA-256 of its certificate, hexadecimal. */
  fingerprint: string
  /** Where its connection came from, or went to. */
  from: string
}
