import { sql, type Kysely } from 'kysely'
import { subjectsInOrder } from './subjects'
import type { Database } from './tables'

const inOneGo = 20_000

/**
 * Forgets revisions that are older than the site keeps them, or more than it keeps. Who changed a thing last is told for as
 * long as the thing is as that left it; what was before can no more be put back.
 *
 * @returns up to which revision everything is forgotten
 */
export const forgetRevisions = async (db: Kysely<Database>): Promise<number> => {
  const { forgotten } = await db
    .updateTable('site')
    .set({ forgotten: sql<number>`greatest(forgotten, least(revision, ${lastToForget}))` })
    .returning('forgotten')
    .executeTakeFirstOrThrow()
  // whoever follows changes knows by now that they are not there to be followed
  for (let more = true; more;) {
    const gone = sql`delete from change where ctid in (select ctid from change where revision <= ${forgotten} limit ${inOneGo})`
    more = Number((await gone.execute(db)).numAffectedRows ?? 0) === inOneGo
  }
  const used = sql.join(
    subjectsInOrder().map((subject) => sql`select revision from ${sql.table(subject)}`),
    sql` union `,
  )
  await sql`delete from revision where number <= ${forgotten} and number not in (${used})`.execute(db)
  return forgotten
}

/** The newest revision that is too old, or one too many; 0: none. */
const lastToForget = sql<number>`(
  select coalesce(max(number), 0) from revision
  where at < now() - make_interval(days => site.keep_days) or number <= site.revision - site.keep_revisions)`
