import { digestOfParts } from '../../../checks/seal'
import { closeCheckSheet } from '#shared/api/checks'
import { requireWho } from '../../../access/access'
import { defineRoute } from '../../../answers/route'
import { partsOf } from '../../../checks/digest'
import { openSheet, sheetRow, shownSheet } from '../../../checks/sheets'
import { database } from '../../../store/database'

export default defineRoute(closeCheckSheet, ({ event, params: { id } }) =>
  database()
    .transaction()
    .execute(async (db) => {
      await openSheet(id, db)
      const sealed = await partsOf(id, db)
      await db
        .updateTable('check_sheet')
        .set({
          ...{ closed_by: requireWho(event).name, closed_at: new Date() },
          ...{ digest: digestOfParts(sealed), sealed: JSON.stringify(sealed) },
        })
        .where('id', '=', id)
        .execute()
      return shownSheet(await sheetRow(id, db), db)
    }),
)
