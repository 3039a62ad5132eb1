import { database } from '../../lib/database'
import { shownPerson } from '../../lib/people'
import { defineRoute } from '../../lib/refusal'

/** Everybody who may sign in, by name. */
export default defineRoute('administer', async () => {
  const rows = await database().selectFrom('person').selectAll().orderBy('name').execute()
  return rows.map(shownPerson)
})
