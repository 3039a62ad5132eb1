import { sql } from 'kysely'
import { z } from 'zod'
import { numberText } from '#shared/fields'
import { database } from '../../store/database'
import { defineRoute, queryOf } from '../../answers/refusal'

const query = z.object({ before: numberText(1).optional(), limit: numberText(1, 200).default(50) })

/** Who changed what, newest first. */
export default defineRoute('look', (event) => {
  const { before, limit } = queryOf(event, query)
  return database()
    .selectFrom('revision')
    .select(['number', 'at', 'who', 'what', sql<number>`jsonb_array_length(changes)`.as('things')])
    .$if(before !== undefined, (q) => q.where('number', '<', before!))
    .orderBy('number', 'desc')
    .limit(limit)
    .execute()
})
