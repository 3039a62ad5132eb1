import { database } from '../../store/database'
import { shownOutlets } from '../../outlets/outlets'
import { defineRoute } from '../../answers/refusal'

/** All outlets, by name. */
export default defineRoute('look', async () => {
  const rows = await database().selectFrom('outlet').selectAll().orderBy('name').execute()
  return shownOutlets(rows)
})
