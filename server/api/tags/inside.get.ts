import { sql } from 'kysely'
import { listInside } from '#shared/api/tags'
import { pageOfArray } from '#core/lists/paged'
import { defineRoute } from '../../answers/route'
import { matchingTags } from '../../tags/matching'

export default defineRoute(listInside, async ({ query }) => {
  const start = query.below ? query.below.length + 2 : 1
  const inner = sql<string>`substring(path from ${start}::int)`
  const found = await (
    await matchingTags({ ...query, find: query.words })
  )
    .where(sql<boolean>`position('/' in ${inner}) > 0`)
    .select([sql<string>`split_part(${inner}, '/', 1)`.as('name'), sql<number>`count(*)::int`.as('tags')])
    .groupBy('name')
    .execute()
  const folders = found.map(({ name, tags }) => ({ folder: query.below ? `${query.below}/${name}` : name, name, tags }))
  return pageOfArray(folders, query, { text: ({ name }) => name, by: { name: ({ name }) => name, tags: ({ tags }) => tags } })
})
