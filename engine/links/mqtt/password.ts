import type { MqttSettings } from '#core/mqtt/settings'
import { openedSecret } from '../../trust/openedSecret'
import type { Security } from '../../trust/security'

/** The password to sign in with, opened; null: nobody signs in. Throws where it cannot be opened here. */
export const passwordOf = ({ identity }: MqttSettings, seal: Security['seal']): string | null =>
  identity.kind === 'password' ? openedSecret(identity.password, seal) : null
