import { sql } from 'kysely'
import { thingsOf } from '#db/rows'
import { within } from '#pacing/within'
import { listTags } from '#shared/api/tags'
import { countOf, rowsOfPage } from '../../answers/page'
import { defineRoute } from '../../answers/route'
import { notesOfTags } from '../../worker/notesOfTags'
import { matchingTags } from '../../tags/matching'

/** After a large change the worker reads for seconds; a list is worth having before that. */
const notesWithinMs = 100

const by = {
  ...({ path: 'path', type: 'type', access: 'access', id: 'id', revision: 'revision', interval: 'interval' } as const),
  link: sql<string>`(select name from link where link.id = tag.link_id) collate natural_order`,
  address: sql<string>`address collate natural_order`,
  unit: sql<string>`unit collate natural_order`,
  description: sql<string>`description collate natural_order`,
}

export default defineRoute(listTags, async ({ query }) => {
  const matching = await matchingTags(query)
  const [total, rows] = await Promise.all([
    countOf(matching),
    rowsOfPage(matching.selectAll(), query, {
      by,
      last: 'id',
    }),
  ])
  const items = thingsOf('tag', rows)
  const notes = await within(notesWithinMs, notesOfTags(items.map(({ id }) => id))).catch(() => null)
  return { total, offset: query.offset, items, notes }
})
