import { z } from 'zod'
import { numberText } from '#shared/fields'
import { protocolOf } from '#core/links/registry'
import { thingsOf } from '#db/rows'
import { isFrom, sourceKinds } from '#shared/sources/registry'
import type { Tag } from '#shared/tags'
import { database } from '../../store/database'
import { containing, plain } from '../../store/likeText'
import { defineRoute, queryOf } from '../../answers/refusal'
import { linkNotes } from '../../tags/tagNotes'

const query = z.object({
  link: numberText(1).optional(),
  source: z.enum(sourceKinds).optional(),
  below: z.string().max(240).optional(),
  find: z.string().max(240).optional(),
  offset: numberText(0).default(0),
  limit: numberText(1, 500).default(100),
})

/** A page of tags in the order of their paths, with the number of all that match and notes on their addresses. */
export default defineRoute('look', async (event) => {
  const { link, source, below, find, offset, limit } = queryOf(event, query)
  const matching = database()
    .selectFrom('tag')
    .$if(link !== undefined, (q) => q.where('link_id', '=', link!))
    .$if(source !== undefined, (q) => q.where('source', '=', source!))
    .$if(!!below, (q) => q.where('path', 'like', `${plain(below!)}/%`))
    .$if(!!find, (q) =>
      q.where((eb) => eb.or(['path', 'address', 'description'].map((column) => eb(column as 'path', 'ilike', containing(find!))))),
    )
  const { total } = await matching.select((eb) => eb.fn.countAll<number>().as('total')).executeTakeFirstOrThrow()
  const rows = await matching.selectAll().orderBy('path').offset(offset).limit(limit).execute()
  const tags = thingsOf('tag', rows)
  return { total, offset, tags, notes: await notesFor(tags) }
})

const notesFor = async (tags: Tag[]): Promise<Record<number, string>> => {
  const ids = [...new Set(tags.filter((tag) => isFrom('point', tag)).map(({ source }) => source.linkId))]
  if (ids.length === 0) return {}
  const links = await database().selectFrom('link').selectAll().where('id', 'in', ids).execute()
  const found = await Promise.all(thingsOf('link', links).map((link) => linkNotes(link, protocolOf(link.kind))))
  return Object.fromEntries(tags.flatMap((tag) => found.flatMap((notes) => (notes.has(tag.id) ? [[tag.id, notes.get(tag.id)!]] : []))))
}
