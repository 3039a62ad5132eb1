import { listNotes } from '#shared/api/notes'
import { orderOf, wordsOf } from '#core/lists/paged'
import { defineRoute } from '../../answers/route'
import { findingsNow } from '../../worker/findings'
import { tagWorker } from '../../worker/tagWorker'

export default defineRoute(listNotes, async ({ query: { find, sort, offset, limit, kind = null, accepted } }) => {
  const findings = await findingsNow()
  const { name, isDown } = orderOf(sort)
  const asked = { words: wordsOf(find?.toLowerCase()), kind, accepted: accepted === 'only', sort: name, isDown, offset, limit }
  return { ...(await tagWorker.call((notes) => notes.page(asked, findings))), offset }
})
