import { sql } from 'kysely'
import { z } from 'zod'
import { idField } from '#shared/fields'
import { place } from '#shared/browse'
import { database } from '../../store/database'
import { bodyOf, defineRoute, manyBytes } from '../../answers/refusal'

const most = 20_000
const body = z.object({
  linkId: idField('A link'),
  points: z.array(place).max(most),
  paths: z.array(z.string().max(240)).max(most),
})

/** Which of these paths are taken, and which of these points are tags already. */
export default defineRoute('look', async (event) => {
  const { linkId, points, paths } = await bodyOf(event, body, manyBytes)
  const db = database()
  const taken = await db
    .selectFrom('tag')
    .select('path')
    .where('path', '=', sql<string>`any(${paths})`)
    .execute()
  const addresses = [...new Set(points.map(({ address }) => address))]
  const mapped = await db
    .selectFrom('tag')
    .select(['path', 'address', sql<string>`coalesce(options->>'member', '')`.as('member')])
    .where('link_id', '=', linkId)
    .where('address', '=', sql<string>`any(${addresses})`)
    .execute()
  return { paths: taken.map(({ path }) => path), points: mapped }
})
