import type { MqttSettings } from '#core/mqtt/settings'
import { openedSecret } from '../../trust/openedSecret'
import { ownPairOf, type OwnPair } from '../../trust/ownPair'
import type { Security } from '../../trust/security'

/** By what we show a broker who we are. */
export interface Credentials {
  /** Null: nobody signs in. */
  password: string | null
  /** Certificate and key in PEM; null: none is shown. */
  pair: OwnPair | null
}

/** Secrets, opened. Throws where one cannot be opened here. */
export const credentialsOf = (
  { identity, certificate, tls }: MqttSettings,
  { seal, own }: Pick<Security, 'seal' | 'own'>,
): Credentials => ({
  password: identity.kind === 'password' ? openedSecret(identity.password, seal) : null,
  pair: tls.mode === 'off' ? null : ownPairOf(certificate, { seal, own }),
})
