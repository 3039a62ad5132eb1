import { showChecksOf } from '#shared/api/checks'
import { defineRoute } from '../../../answers/route'
import { shownCheck } from '../../../checks/points'
import { sheetRow } from '../../../checks/sheets'
import { database } from '../../../store/database'

export default defineRoute(showChecksOf, async ({ params: { id }, query: { tag } }) => {
  await sheetRow(id)
  const rows = await database()
    .selectFrom('check_result')
    .selectAll()
    .where('sheet_id', '=', id)
    .where('tag_id', '=', tag)
    .orderBy('at', 'desc')
    .orderBy('id', 'desc')
    .execute()
  return rows.map(shownCheck)
})
