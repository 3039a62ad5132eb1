import type { ClientCertificate } from '#core/contracts/protection'
import { openedSecret } from './openedSecret'
import type { Security } from './security'

/** Certificate and key in PEM by which we show who we are; null: none is shown. Throws where the key cannot be opened here. */
export const ownPairOf = (certificate: ClientCertificate, { seal, own }: Pick<Security, 'seal' | 'own'>): OwnPair | null => {
  if (certificate.kind === 'none') return null
  if (certificate.kind === 'ours') return { cert: own.pem, key: own.key }
  return { cert: certificate.certificate, key: openedSecret(certificate.key, seal) }
}
export interface OwnPair {
  cert: string
  key: string
}
