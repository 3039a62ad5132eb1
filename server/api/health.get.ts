import { sql } from 'kysely'
import { database } from '../store/database'
import { engineClient } from '../runtime/engineClient'
import { defineRoute } from '../answers/refusal'

const mostMs = 1500

/** Whether the three others are there, and answer. */
export default defineRoute('anyone', async () => {
  const late = new Promise<boolean>((resolve) => setTimeout(() => resolve(false), mostMs).unref())
  const answers = sql`select 1`.execute(database()).then(
    () => true,
    () => false,
  )
  return { web: true, engine: engineClient.alive, database: await Promise.race([answers, late]) }
})
