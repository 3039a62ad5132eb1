import { z } from 'zod'
import { idField, numberText } from '#shared/fields'
import type { ListedWrite } from '#shared/writes'
import { database } from '../store/database'
import { containing } from '../store/likeText'
import { defineRoute, queryOf } from '../answers/refusal'

const query = z.object({
  before: numberText(1, Number.MAX_SAFE_INTEGER).optional(),
  tag: numberText(1).pipe(idField('A tag')).optional(),
  failed: z.literal('only').optional(),
  find: z.string().max(200).optional(),
  limit: numberText(1, 500).default(100),
})

/** Values that were written to the plant: by whom, what, and what came of it; newest first. */
export default defineRoute('look', async (event): Promise<ListedWrite[]> => {
  const { before, tag, failed, find, limit } = queryOf(event, query)
  const rows = await database()
    .selectFrom('written')
    .selectAll()
    .$if(before !== undefined, (q) => q.where('id', '<', before!))
    .$if(tag !== undefined, (q) => q.where('tag_id', '=', tag!))
    .$if(failed === 'only', (q) => q.where('ok', '=', false))
    .$if(!!find, (q) => q.where((eb) => eb.or([eb('path', 'ilike', containing(find!)), eb('who', 'ilike', containing(find!))])))
    .orderBy('id', 'desc')
    .limit(limit)
    .execute()
  return rows.map(({ tag_id, at, key: _key, ...row }) => ({ ...row, at: at.toISOString(), tagId: tag_id }))
})
