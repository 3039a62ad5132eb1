import { sql } from 'kysely'
import { z } from 'zod'
import { fault } from '#core/faults/catalogue'
import { changeConfiguration } from '#db/configuration'
import { subjectsInOrder } from '#db/subjects'
import { Refusal } from '../answers/refusalError'
import { database } from '../store/database'
import { unnamedSite } from '#shared/siteFacts'

const mark = z.object({ nameBefore: z.string().catch(unnamedSite) })

/**
 * Empties a copy that looked at a case. Nothing of it stays that could be put back: taken for configuration of this site, it
 * would reach for the plant.
 */
export const closeCase = async (who: string): Promise<void> => {
  await changeConfiguration(
    database(),
    who,
    'Closed the case; this copy is empty',
    async ({ db, revision }) => {
      const { case_of } = await db.selectFrom('site').select('case_of').executeTakeFirstOrThrow()
      if (case_of === null) throw new Refusal(fault('case.none', {}))
      await sql`set constraints all deferred`.execute(db)
      for (const subject of subjectsInOrder().reverse()) await sql`delete from ${sql.table(subject)}`.execute(db)
      await sql`truncate case_part, journal`.execute(db)
      await sql`delete from change`.execute(db)
      await db
        .updateTable('site')
        .set({ case_of: null, name: mark.parse(case_of).nameBefore, forgotten: revision })
        .execute()
    },
    { ofCase: true },
  )
}
