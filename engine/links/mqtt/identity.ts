import type { MqttSettings } from '#core/mqtt/settings'
import type { Security } from '../../trust/security'

/** The password to sign in with, opened; null: nobody signs in. Throws where it cannot be opened here. */
export const identityOf = ({ identity }: MqttSettings, seal: Security['seal']): string | null => {
  if (identity.kind !== 'password') return null
  const { password } = identity
  if ('plain' in password) return password.plain
  if ('sealed' in password) return seal.open(password.sealed)
  throw new Error('the password did not come along')
}
