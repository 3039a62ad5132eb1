import { sql } from 'kysely'
import { changeCheckSheet } from '#shared/api/checks'
import { defineRoute } from '../../answers/route'
import { addPoints, openSheet, sheetRow, shownSheet } from '../../checks/sheets'
import { namesTaken } from '../../store/configuration'
import { database } from '../../store/database'

export default defineRoute(changeCheckSheet, ({ params: { id }, body: { add, remove, ...sheet } }) => {
  const changed = database()
    .transaction()
    .execute(async (db) => {
      await openSheet(id, db)
      await db.updateTable('check_sheet').set(sheet).where('id', '=', id).execute()
      for (const table of ['check_result', 'check_point'] as const)
        await db
          .deleteFrom(table)
          .where('sheet_id', '=', id)
          .where(sql<boolean>`tag_id = any(${remove})`)
          .execute()
      await addPoints(id, { names: add }, db)
      return shownSheet(await sheetRow(id, db), db)
    })
  return namesTaken('check sheet', sheet.name, 'name', changed)
})
