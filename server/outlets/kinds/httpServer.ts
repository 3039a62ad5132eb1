import type { HttpServerSettings } from '#shared/outlets/httpServer'
import { httpServerProblems } from '#shared/outlets/httpServerProblems'
import { complete, hashed } from '../../store/secrets'
import type { OutletSaving } from './kind'
import { portsTaken } from './ports'

export const httpServerSaving: OutletSaving<HttpServerSettings> = {
  problems: (settings, others, links) => [...portsTaken(settings.doors, others), ...httpServerProblems(settings, links)],
  /** Tokens are only compared, so only their hashes are kept. */
  stored: async (settings, saved) => {
    const { users, ...rest } = complete(settings, saved)
    return { ...rest, users: await Promise.all(users.map(async (user) => ({ ...user, token: await hashed(user.token) }))) }
  },
}
