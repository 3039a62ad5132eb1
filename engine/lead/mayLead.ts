import type { Kysely } from 'kysely'
import { unknownMigrations } from '#db/migrate'
import type { Database } from '#db/tables'
import { steadyNow } from '#pacing/clock'
import type { NodeIdentity } from '../farNode/identity'
import { usualTiming } from './lead'

/** Why a machine cannot lead its site; null: it can. */
export const whyNotLead = async (db: Kysely<Database>, identity: NodeIdentity): Promise<string | null> => {
  const unknown = await unknownMigrations(db)
  if (unknown.length > 0) return 'the database is of a newer version. Bring this machine to that version.'
  const standing = await db.selectFrom('node').select(['id', 'key']).where('standsBy', '=', true).execute()
  const lead = await db.selectFrom('site_lead').select('node').executeTakeFirst()
  // what was taken back to a time with one machine is still led by the one that led it
  if (standing.length === 0 && lead?.node === identity.node) return null
  const own = standing.find(({ id }) => id === identity.node)
  return own?.key === identity.fingerprint ? null : 'its node was removed, or is another machine by now.'
}

const lookMs = 250

/** Who leads the site of a database, as shows by its renewing that; null: nobody does, or the database is away. */
export const leadsAlready = async (db: Kysely<Database>): Promise<string | null> => {
  const seen = async () =>
    (await db
      .selectFrom('site_lead')
      .select(['run', 'name', 'beat'])
      .executeTakeFirst()
      .catch(() => null)) ?? null
  const before = await seen()
  const until = steadyNow() + usualTiming.holdMs + usualTiming.marginMs
  while (before?.run && steadyNow() < until) {
    await new Promise((resolve) => setTimeout(resolve, lookMs))
    const now = await seen()
    if (now && now.beat !== before.beat) return now.name
  }
  return null
}
