import { thingsOf } from '#db/rows'
import { listTags } from '#shared/api/tags'
import type { Tag } from '#shared/tags'
import { countOf, rowsOfPage } from '../../answers/page'
import { defineRoute } from '../../answers/route'
import { findingsNow } from '../../worker/findings'
import { tagWorker } from '../../worker/tagWorker'
import { matchingTags } from '../../tags/matching'

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

/** A list is worth having without them. */
const notesFor = async (tags: Tag[]) => {
  const findings = await findingsNow()
  return tagWorker
    .call((notes) =>
      notes.notesOf(
        tags.map(({ id }) => id),
        findings,
      ),
    )
    .catch(() => ({}))
}
