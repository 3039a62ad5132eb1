import { protocolOf } from '#core/links/registry'
import { thingsOf } from '#db/rows'
import { listTags } from '#shared/api/tags'
import { isFrom } from '#shared/sources/registry'
import type { Tag } from '#shared/tags'
import { countOf, rowsOfPage } from '../../answers/page'
import { defineRoute } from '../../answers/route'
import { database } from '../../store/database'
import { matchingTags } from '../../tags/matching'
import { linkNotes } from '../../tags/tagNotes'

export default defineRoute(listTags, async ({ query }) => {
  const matching = await matchingTags(query)
  const [total, rows] = await Promise.all([
    countOf(matching),
    rowsOfPage(matching.selectAll(), query, {
      by: { path: 'path', type: 'type', access: 'access', id: 'id', revision: 'revision' },
      last: 'id',
    }),
  ])
  const items = thingsOf('tag', rows)
  return { total, offset: query.offset, items, notes: await notesFor(items) }
})

const notesFor = async (tags: Tag[]): Promise<Record<number, string>> => {
  const ids = [...new Set(tags.filter((tag) => isFrom('point', tag)).map(({ source }) => source.linkId))]
  if (ids.length === 0) return {}
  const links = await database().selectFrom('link').selectAll().where('id', 'in', ids).execute()
  const found = await Promise.all(thingsOf('link', links).map((link) => linkNotes(link, protocolOf(link.kind))))
  return Object.fromEntries(tags.flatMap((tag) => found.flatMap((notes) => (notes.has(tag.id) ? [[tag.id, notes.get(tag.id)!]] : []))))
}
