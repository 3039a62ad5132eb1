import { removeCheckSheet } from '#shared/api/checks'
import { defineRoute } from '../../answers/route'
import { sheetRow } from '../../checks/sheets'
import { database } from '../../store/database'

export default defineRoute(removeCheckSheet, async ({ params: { id } }) => {
  await sheetRow(id)
  await database().deleteFrom('check_sheet').where('id', '=', id).execute()
  return { removed: id }
})
