import { showCheckSheet } from '#shared/api/checks'
import { defineRoute } from '../../answers/route'
import { digestOfSheet } from '../../checks/digest'
import { sheetRow, shownSheet } from '../../checks/sheets'

export default defineRoute(showCheckSheet, async ({ params: { id } }) => {
  const sheet = await shownSheet(await sheetRow(id))
  return { ...sheet, ...(await digestOfSheet(sheet)) }
})
