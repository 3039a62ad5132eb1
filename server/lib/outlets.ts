import type { Kysely } from 'kysely'
import type { Row } from '#db/configuration'
import { readable, thingOf, thingsOf } from '#db/rows'
import type { Database } from '#db/tables'
import { collides } from '#shared/outlets/opcuaServer'
import type { Outlet, OutletDraft } from '#shared/outlets/outlet'
import { certificateFacts } from '#security/certificateFacts'
import { withoutSecrets } from '#shared/secrets'
import { invalid } from './refusal'
import { complete, hashed } from './secrets'

/** An outlet as it leaves the server. */
export const shownOutlet = (row: Row<'outlet'>): Outlet => {
  const outlet = thingOf('outlet', row)
  return { ...outlet, settings: withoutSecrets(outlet.settings) }
}

/** Of many rows, the outlets that can be read. */
export const shownOutlets = (rows: readonly Row<'outlet'>[]): Outlet[] => readable(rows, shownOutlet)

/** A user's certificate that cannot be read would let nobody in, and say nothing. */
export const refuseUnreadableCertificates = ({ settings }: OutletDraft) => {
  const problems = settings.users.flatMap(({ key }, i) =>
    key.kind === 'certificate' && !isReadable(key.certificate)
      ? [{ path: `settings.users.${i}.key.certificate`, message: 'This certificate cannot be read; it may be cut off.' }]
      : [],
  )
  if (problems.length > 0) throw invalid(problems)
}

const isReadable = (certificate: string) => {
  try {
    return certificateFacts(certificate).fingerprint !== ''
  } catch {
    return false
  }
}

/** Two outlets on one port cannot both open; better said before than after. */
export const refusePortsTaken = async (db: Kysely<Database>, outlet: OutletDraft, id: number | null) => {
  const rows = await db.selectFrom('outlet').selectAll().execute()
  const others = thingsOf('outlet', rows).filter((candidate) => candidate.id !== id)
  const problems = outlet.settings.doors.flatMap((door, i) => {
    const other = others.find(({ settings }) => settings.doors.some((taken) => collides(taken, door)))
    return other ? [{ path: `settings.doors.${i}.port`, message: `Port ${door.port} belongs to the outlet “${other.name}”.` }] : []
  })
  if (problems.length > 0) throw invalid(problems)
}

/** Settings ready for the database: passwords of guests are only compared, so only their hashes are kept. */
export const storedSettings = async (settings: OutletDraft['settings'], saved: unknown = null): Promise<OutletDraft['settings']> => {
  const { users, ...rest } = complete(settings, saved)
  const hashedUsers = await Promise.all(
    users.map(async (user) =>
      user.key.kind === 'password' ? { ...user, key: { ...user.key, password: await hashed(user.key.password) } } : user,
    ),
  )
  return { ...rest, users: hashedUsers }
}
