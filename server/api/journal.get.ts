import { z } from 'zod'
import { numberText } from '#shared/fields'
import { database } from '../store/database'
import { containing } from '../store/likeText'
import { defineRoute, queryOf } from '../answers/refusal'

const query = z.object({
  before: numberText(1, Number.MAX_SAFE_INTEGER).optional(),
  severity: z.enum(['note', 'caution', 'trouble']).optional(),
  find: z.string().max(200).optional(),
  limit: numberText(1, 500).default(100),
})

/** What happened, newest first. */
export default defineRoute('look', (event) => {
  const { before, severity, find, limit } = queryOf(event, query)
  return database()
    .selectFrom('journal')
    .selectAll()
    .$if(before !== undefined, (q) => q.where('id', '<', before!))
    .$if(severity !== undefined, (q) => q.where('severity', '=', severity!))
    .$if(!!find, (q) => q.where((eb) => eb.or([eb('text', 'ilike', containing(find!)), eb('source', 'ilike', containing(find!))])))
    .orderBy('id', 'desc')
    .limit(limit)
    .execute()
})
