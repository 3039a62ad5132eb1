import { asOutlet } from '#db/rows'
import { database } from '../../lib/database'
import { defineRoute } from '../../lib/refusal'

/** All outlets, by name. */
export default defineRoute('look', async () => {
  const rows = await database().selectFrom('outlet').selectAll().orderBy('name').execute()
  return rows.map(asOutlet)
})
