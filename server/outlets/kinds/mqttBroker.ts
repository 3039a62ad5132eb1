import type { MqttBrokerSettings } from '#shared/outlets/mqttBroker'
import { complete, hashed } from '../../store/secrets'
import type { OutletSaving } from './kind'
import { portsTaken } from './ports'

export const mqttBrokerSaving: OutletSaving<MqttBrokerSettings> = {
  problems: ({ doors }, others) => portsTaken(doors, others),
  /** Passwords of clients are only compared, so only their hashes are kept. */
  stored: async (settings, saved) => {
    const { users, ...rest } = complete(settings, saved)
    return { ...rest, users: await Promise.all(users.map(async (user) => ({ ...user, password: await hashed(user.password) }))) }
  },
}
