import { certificateFacts } from '#security/certificateFacts'
import type { OpcuaServerSettings } from '#shared/outlets/opcuaServer'
import type { FieldMessage } from '#shared/faults'
import { complete, hashed } from '../../store/secrets'
import type { OutletSaving } from './kind'
import { portsTaken } from './ports'

export const opcuaServerSaving: OutletSaving<OpcuaServerSettings> = {
  problems: (settings, others) => [...unreadableCertificates(settings), ...portsTaken(settings.doors, others)],
  /** Passwords of guests are only compared, so only their hashes are kept. */
  stored: async (settings, saved) => {
    const { users, ...rest } = complete(settings, saved)
    const hashedUsers = await Promise.all(
      users.map(async (user) =>
        user.key.kind === 'password' ? { ...user, key: { ...user.key, password: await hashed(user.key.password) } } : user,
      ),
    )
    return { ...rest, users: hashedUsers }
  },
}

/** A user's certificate that cannot be read would let nobody in, and say nothing. */
const unreadableCertificates = ({ users }: OpcuaServerSettings): FieldMessage[] =>
  users.flatMap(({ key }, i) =>
    key.kind === 'certificate' && !isReadable(key.certificate)
      ? [{ path: `settings.users.${i}.key.certificate`, message: 'This certificate cannot be read; it may be cut off.' }]
      : [],
  )

const isReadable = (certificate: string) => {
  try {
    return certificateFacts(certificate).fingerprint !== ''
  } catch {
    return false
  }
}
