import { database } from '../../lib/database'
import { shownLinks } from '../../lib/links'
import { defineRoute } from '../../lib/refusal'

/** All links, by name. */
export default defineRoute('look', async () => {
  const rows = await database().selectFrom('link').selectAll().orderBy('name').execute()
  return shownLinks(rows)
})
