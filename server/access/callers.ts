import type { Role } from '#core/access/roles'
import { tokenHash } from '#security/tokens'
import { steadyNow } from '#pacing/clock'
import { database } from '../store/database'

export interface Caller {
  /** As the revisions name them. */
  name: string
  role: Role
  mustChange: boolean
  personId: number | null
  /** Hash of the session or token by which they came. */
  hash: string
}

interface Remembered {
  caller: Caller | null
  at: number
}

/** A session ends after so long without use, and in any case after a week. */
const idleMs = 12 * 3_600_000
const longestMs = 7 * 86_400_000
/** How long an answer holds before the database is asked again; and while the database is away. */
const freshMs = 2000
const staleMs = 10 * 60_000
const seenEveryMs = 60_000
const mostRemembered = 5000

const remembered = new Map<string, Remembered>()

/** Everything known of callers is asked for anew: after a change of a person, a session or a token. */
export const forgetCallers = () => remembered.clear()

export const personBySession = (token: string) => lookUp(tokenHash(token), askForSession)
export const programByToken = (token: string) => lookUp(tokenHash(token), askForToken)

/** While the database is away, whoever was known a moment ago may go on looking. */
const lookUp = async (hash: string, ask: (hash: string) => Promise<Caller | null>): Promise<Caller | null> => {
  const known = remembered.get(hash)
  if (known && steadyNow() - known.at < freshMs) return known.caller
  try {
    const caller = await ask(hash)
    remember(hash, caller)
    return caller
  } catch (error) {
    if (known?.caller && steadyNow() - known.at < staleMs) return known.caller
    throw error
  }
}

const remember = (hash: string, caller: Caller | null) => {
  if (remembered.size >= mostRemembered) remembered.delete(remembered.keys().next().value!)
  remembered.delete(hash)
  remembered.set(hash, { caller, at: steadyNow() })
}

const askForSession = async (hash: string): Promise<Caller | null> => {
  const row = await database()
    .selectFrom('session')
    .innerJoin('person', 'person.id', 'session.person_id')
    .select(['person.id', 'person.name', 'person.role', 'person.must_change', 'session.made_at', 'session.seen_at'])
    .where('session.hash', '=', hash)
    .where('person.on', '=', true)
    .executeTakeFirst()
  if (!row) return null
  const now = Date.now()
  if (now - row.seen_at.getTime() > idleMs || now - row.made_at.getTime() > longestMs) {
    await database().deleteFrom('session').where('hash', '=', hash).execute()
    return null
  }
  if (now - row.seen_at.getTime() > seenEveryMs) await noteSeen(hash, row.id)
  return { name: row.name, role: row.role, mustChange: row.must_change, personId: row.id, hash }
}

const noteSeen = async (hash: string, personId: number) => {
  const now = new Date()
  await database().updateTable('session').set({ seen_at: now }).where('hash', '=', hash).execute()
  await database().updateTable('person').set({ seen_at: now }).where('id', '=', personId).execute()
}

const askForToken = async (hash: string): Promise<Caller | null> => {
  const row = await database().selectFrom('api_token').selectAll().where('hash', '=', hash).executeTakeFirst()
  if (!row || row.expires_at.getTime() < Date.now()) return null
  if (!row.used_at || Date.now() - row.used_at.getTime() > seenEveryMs)
    await database().updateTable('api_token').set({ used_at: new Date() }).where('id', '=', row.id).execute()
  return { name: `token ${row.name}`, role: row.role, mustChange: false, personId: null, hash }
}
