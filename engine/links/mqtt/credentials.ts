import type { MqttSettings } from '#core/mqtt/settings'
import { openedSecret } from '../../trust/openedSecret'
import type { Security } from '../../trust/security'

/** By what we show a broker who we are. */
export interface Credentials {
  /** Null: nobody signs in. */
  password: string | null
  /** Certificate and key in PEM; null: none is shown. */
  pair: { cert: string; key: string } | null
}

/** Secrets, opened. Throws where one cannot be opened here. */
export const credentialsOf = (
  { identity, certificate, tls }: MqttSettings,
  { seal, own }: Pick<Security, 'seal' | 'own'>,
): Credentials => ({
  password: identity.kind === 'password' ? openedSecret(identity.password, seal) : null,
  pair: tls.mode === 'off' ? null : pairOf(certificate, { seal, own }),
})

const pairOf = (certificate: MqttSettings['certificate'], { seal, own }: Pick<Security, 'seal' | 'own'>): Credentials['pair'] => {
  if (certificate.kind === 'none') return null
  if (certificate.kind === 'ours') return { cert: own.pem, key: own.key }
  return { cert: certificate.certificate, key: openedSecret(certificate.key, seal) }
}
