import { getQuery } from 'h3'
import { z } from 'zod'
import { database } from '../lib/database'
import { checked, defineRoute } from '../lib/refusal'

const query = z.object({
  before: z.coerce.number().int().optional(),
  severity: z.enum(['note', 'caution', 'trouble']).optional(),
  find: z.string().max(200).optional(),
  limit: z.coerce.number().int().min(1).max(500).default(100),
})

/** What happened, newest first. */
export default defineRoute('look', (event) => {
  const { before, severity, find, limit } = checked(getQuery(event), query)
  return database()
    .selectFrom('journal')
    .selectAll()
    .$if(before !== undefined, (q) => q.where('id', '<', before!))
    .$if(severity !== undefined, (q) => q.where('severity', '=', severity!))
    .$if(!!find, (q) => q.where((eb) => eb.or([eb('text', 'ilike', `%${find}%`), eb('source', 'ilike', `%${find}%`)])))
    .orderBy('id', 'desc')
    .limit(limit)
    .execute()
})
