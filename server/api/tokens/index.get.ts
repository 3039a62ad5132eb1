import { database } from '../../store/database'
import { shownToken } from '../../access/people'
import { defineRoute } from '../../answers/refusal'

/** The tokens of programs, by name; what they are is told once only. */
export default defineRoute('administer', async () => {
  const rows = await database().selectFrom('api_token').selectAll().orderBy('name').execute()
  return rows.map(shownToken)
})
