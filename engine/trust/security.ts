import type { OwnCertificate } from '#security/ownCertificate'
import type { Seal } from '#security/seal'
import type { TrustBook } from './trustBook'

/** Who we are, whom we trust, and the key to secrets: what every secured connection needs. */
export interface Security {
  own: OwnCertificate
  trust: TrustBook
  seal: Seal
}
