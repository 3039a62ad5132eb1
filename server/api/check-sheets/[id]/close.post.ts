import { closeCheckSheet } from '#shared/api/checks'
import { requireWho } from '../../../access/access'
import { defineRoute } from '../../../answers/route'
import { digestOf, openSheet, pointsOf, sheetRow, shownSheet } from '../../../checks/sheets'
import { database } from '../../../store/database'

export default defineRoute(closeCheckSheet, ({ event, params: { id } }) =>
  database()
    .transaction()
    .execute(async (db) => {
      await openSheet(id, db)
      await db
        .updateTable('check_sheet')
        .set({ closed_by: requireWho(event).name, closed_at: new Date(), digest: await digestOf(id, db) })
        .where('id', '=', id)
        .execute()
      return shownSheet(await sheetRow(id, db), await pointsOf(id, db))
    }),
)
