import { getQuery } from 'h3'
import { sql } from 'kysely'
import { z } from 'zod'
import { database } from '../../lib/database'
import { checked, defineRoute } from '../../lib/refusal'

const query = z.object({ before: z.coerce.number().int().optional(), limit: z.coerce.number().int().min(1).max(200).default(50) })

/** Who changed what, newest first. */
export default defineRoute('look', (event) => {
  const { before, limit } = checked(getQuery(event), query)
  return database()
    .selectFrom('revision')
    .select(['number', 'at', 'who', 'what', sql<number>`jsonb_array_length(changes)`.as('things')])
    .$if(before !== undefined, (q) => q.where('number', '<', before!))
    .orderBy('number', 'desc')
    .limit(limit)
    .execute()
})
