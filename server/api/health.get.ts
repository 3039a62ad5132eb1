import { sql } from 'kysely'
import { database } from '../lib/database'
import { engineClient } from '../lib/engineClient'
import { defineRoute } from '../lib/refusal'

/** Whether the three others are there. */
export default defineRoute('anyone', async () => {
  const answers = await sql`select 1`.execute(database()).then(
    () => true,
    () => false,
  )
  return { web: true, engine: engineClient.connected, database: answers }
})
