import { sql } from 'kysely'
import { knownTags } from '#shared/api/tags'
import { defineRoute } from '../../answers/route'
import { database } from '../../store/database'

export default defineRoute(knownTags, async ({ body: { linkId, points, paths } }) => {
  const db = database()
  const taken = await db
    .selectFrom('tag')
    .select('path')
    .where('path', '=', sql<string>`any(${paths})`)
    .execute()
  const addresses = [...new Set(points.map(({ address }) => address))]
  const mapped = await db
    .selectFrom('tag')
    .select(['path', 'address', sql<string>`coalesce(options->>'member', options->>'path', '')`.as('member')])
    .where('link_id', '=', linkId)
    .where('address', '=', sql<string>`any(${addresses})`)
    .execute()
  return { paths: taken.map(({ path }) => path), points: mapped }
})
