import { listJournal } from '#shared/api/journal'
import { defineRoute } from '../answers/route'
import { asListed, journalPage } from '../journal/entries'

export default defineRoute(listJournal, async ({ query: { sort, ...asked } }) => {
  const page = await journalPage(asked, sort)
  return { ...page, items: page.items.map(asListed) }
})
