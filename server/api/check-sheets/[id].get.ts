import { showCheckSheet } from '#shared/api/checks'
import { defineRoute } from '../../answers/route'
import { digestOf, pointsOf, sheetRow, shownSheet } from '../../checks/sheets'

export default defineRoute(showCheckSheet, async ({ params: { id } }) => {
  const row = await sheetRow(id)
  return { ...shownSheet(row, await pointsOf(id)), digestNow: await digestOf(id) }
})
