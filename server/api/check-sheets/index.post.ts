import { makeCheckSheet } from '#shared/api/checks'
import { requireWho } from '../../access/access'
import { defineRoute } from '../../answers/route'
import { pointsOf } from '../../checks/points'
import { addPoints, sheetRow, shownSheet } from '../../checks/sheets'
import { namesTaken } from '../../store/configuration'
import { database } from '../../store/database'

export default defineRoute(makeCheckSheet, ({ event, body: { below, tags, from, ...sheet } }) => {
  const { name: who } = requireWho(event)
  const made = database()
    .transaction()
    .execute(async (db) => {
      const row = await db
        .insertInto('check_sheet')
        .values({ ...sheet, made_by: who, closed_by: null, closed_at: null, digest: null, sealed: null })
        .returningAll()
        .executeTakeFirstOrThrow()
      if (from !== null) await sheetRow(from, db)
      const left = from === null ? [] : (await pointsOf(from, db)).filter(({ state }) => state !== 'good')
      await addPoints(row.id, { ids: [...tags, ...left.map(({ tag }) => tag)], names: below }, db)
      return shownSheet(row, db)
    })
  return namesTaken('check sheet', sheet.name, 'name', made)
})
