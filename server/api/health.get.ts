import { sql } from 'kysely'
import { showHealth } from '#shared/api/site'
import { defineRoute } from '../answers/route'
import { engineClient } from '../runtime/engineClient'
import { database } from '../store/database'

const mostMs = 1500

export default defineRoute(showHealth, async () => {
  const late = new Promise<boolean>((resolve) => setTimeout(() => resolve(false), mostMs).unref())
  const answers = sql`select 1`.execute(database()).then(
    () => true,
    () => false,
  )
  return { web: true, engine: engineClient.alive, database: await Promise.race([answers, late]) }
})
