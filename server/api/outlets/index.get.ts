import { database } from '../../lib/database'
import { shownOutlets } from '../../lib/outlets'
import { defineRoute } from '../../lib/refusal'

/** All outlets, by name. */
export default defineRoute('look', async () => {
  const rows = await database().selectFrom('outlet').selectAll().orderBy('name').execute()
  return shownOutlets(rows)
})
