import { database } from '../../lib/database'
import { shownToken } from '../../lib/people'
import { defineRoute } from '../../lib/refusal'

/** The tokens of programs, by name; what they are is told once only. */
export default defineRoute('administer', async () => {
  const rows = await database().selectFrom('api_token').selectAll().orderBy('name').execute()
  return rows.map(shownToken)
})
