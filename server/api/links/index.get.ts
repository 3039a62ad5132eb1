import { database } from '../../store/database'
import { shownLinks } from '../../links/links'
import { defineRoute } from '../../answers/refusal'

/** All links, by name. */
export default defineRoute('look', async () => {
  const rows = await database().selectFrom('link').selectAll().orderBy('name').execute()
  return shownLinks(rows)
})
