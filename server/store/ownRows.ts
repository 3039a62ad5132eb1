import type { Kysely } from 'kysely'
import type { Database } from '#db/tables'
import { database } from './database'

/** Changes of what one person has at hand, one after the other: what is counted holds until it is written. */
export const inTurn = <T>(person: number, work: (db: Kysely<Database>) => Promise<T>): Promise<T> =>
  database()
    .transaction()
    .execute(async (db) => {
      await db.selectFrom('person').select('id').where('id', '=', person).forUpdate().execute()
      return work(db)
    })
