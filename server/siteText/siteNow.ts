import type { Kysely } from 'kysely'
import { thingsOf } from '#db/rows'
import type { Things } from '#db/siteText/write'
import { subjectsInOrder, type Subject } from '#db/subjects'
import type { Database } from '#db/tables'

export interface SiteNow {
  name: string
  revision: number
  things: Things
}

/** Everything that is configured, as it was at one moment. */
export const siteNow = (db: Kysely<Database>): Promise<SiteNow> =>
  db
    .transaction()
    .setIsolationLevel('repeatable read')
    .setAccessMode('read only')
    .execute(async (transaction) => {
      const { name, revision } = await transaction.selectFrom('site').select(['name', 'revision']).executeTakeFirstOrThrow()
      const things: Partial<Record<Subject, unknown>> = {}
      for (const subject of subjectsInOrder())
        things[subject] = thingsOf(subject, await transaction.selectFrom(subject).selectAll().execute())
      return { name, revision, things: things as Things }
    })
