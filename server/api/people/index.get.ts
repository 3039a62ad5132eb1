import { database } from '../../store/database'
import { shownPerson } from '../../access/people'
import { defineRoute } from '../../answers/refusal'

/** Everybody who may sign in, by name. */
export default defineRoute('administer', async () => {
  const rows = await database().selectFrom('person').selectAll().orderBy('name').execute()
  return rows.map(shownPerson)
})
