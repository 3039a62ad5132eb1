import { sql } from 'kysely'
import { keepingContract } from '#core/history/settings'
import { showHistory } from '#shared/api/history'
import { defineRoute } from '../../answers/route'
import { stockOf } from '../../history/stock'
import { database } from '../../store/database'
import { historyReader } from '../../store/history'

export default defineRoute(showHistory, async () => {
  const { history } = await database().selectFrom('site').select('history').executeTakeFirstOrThrow()
  const late = await sql<{ late: number }>`select count(*)::int as late from history_late`.execute(database())
  return stockOf(await historyReader().parts(), keepingContract.parse(history), late.rows[0]!.late, Date.now())
})
