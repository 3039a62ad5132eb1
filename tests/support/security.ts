import { mkdtempSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { TrustBook } from '#engine/trust/trustBook'
import type { Security } from '#engine/trust/security'
import { OwnCertificate } from '#security/ownCertificate'
import { Seal } from '#security/seal'

/** Who we are in a test: a certificate of our own, and an empty book of those we trust. */
export const testSecurity = async (): Promise<Security> => {
  const seal = new Seal('a secret that is only for tests')
  return { own: await OwnCertificate.load(mkdtempSync(join(tmpdir(), 'conduit-own-')), seal), trust: new TrustBook(), seal }
}
