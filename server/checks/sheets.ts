import { sql, type Kysely, type Selectable } from 'kysely'
import { fault } from '#core/faults/catalogue'
import type { CheckSheetTable, Database } from '#db/tables'
import { mostCheckPoints, type CheckSheet } from '#shared/checks'
import { Refusal } from '../answers/refusal'
import { database } from '../store/database'
import { plain } from '../store/likeText'
import { countsOf } from './counts'
import { countPoints } from './points'

/** Sheets by which points are checked one by one, as the database has them beside what the tags are now. */

type Db = Kysely<Database>
type SheetRow = Selectable<CheckSheetTable>

export const sheetRow = async (id: number, db: Db = database()): Promise<SheetRow> => {
  const row = await db.selectFrom('check_sheet').selectAll().where('id', '=', id).executeTakeFirst()
  if (!row) throw new Refusal(fault('entry.gone', { thing: 'check sheet', id }))
  return row
}

/** One that is still worked on, locked until the change is done. */
export const openSheet = async (id: number, db: Db): Promise<SheetRow> => {
  const row = await db.selectFrom('check_sheet').selectAll().where('id', '=', id).forUpdate().executeTakeFirst()
  if (!row) throw new Refusal(fault('entry.gone', { thing: 'check sheet', id }))
  if (row.closed_at) throw new Refusal(fault('checks.closed', { name: row.name, by: row.closed_by ?? '' }))
  return row
}

/** A sheet as it is shown, or several. */
export const shownSheets = async (rows: readonly SheetRow[], db: Db = database()): Promise<CheckSheet[]> => {
  const counts = await countsOf(
    rows.map(({ id }) => id),
    db,
  )
  return rows.map((row) => shown(row, counts.get(row.id)!))
}
export const shownSheet = async (row: SheetRow, db: Db = database()): Promise<CheckSheet> => (await shownSheets([row], db))[0]!

const shown = (row: SheetRow, counts: CheckSheet['counts']): CheckSheet => ({
  ...{ id: row.id, name: row.name, against: row.against, note: row.note, madeBy: row.made_by, madeAt: row.made_at.getTime() },
  ...{ closedBy: row.closed_by, closedAt: row.closed_at?.getTime() ?? null, digest: row.digest },
  ...{ points: Object.values(counts).reduce((sum, count) => sum + count, 0), counts },
})

/** Brings tags onto a sheet: those of these ids, those called so, and all that lies in folders called so. */
export const addPoints = async (
  sheet: number,
  { ids = [], names = [] }: { ids?: readonly number[]; names?: readonly string[] },
  db: Db,
) => {
  const found = new Map<number, string>()
  const note = (rows: readonly { id: number; path: string }[]) => rows.forEach(({ id, path }) => found.set(id, path))
  const tags = db.selectFrom('tag').select(['id', 'path'])
  if (ids.length > 0) note(await tags.where(sql<boolean>`id = any(${[...ids]})`).execute())
  for (const name of names.map((one) => one.trim().replace(/\/+$/, ''))) {
    const rows = await tags.where((eb) => eb.or([eb('path', '=', name), eb('path', 'like', `${plain(name)}/%`)])).execute()
    if (rows.length === 0) throw new Refusal(fault('checks.no-points', { what: name }))
    note(rows)
  }
  const points = [...found].map(([tag_id, path]) => ({ tag_id, path }))
  if (points.length > 0)
    await sql`
      insert into check_point (sheet_id, tag_id, path)
      select ${sheet}::int, tag_id, path from jsonb_to_recordset(${JSON.stringify(points)}::jsonb) as given (tag_id int, path text)
      on conflict do nothing`.execute(db)
  const count = await countPoints(sheet, db)
  if (count === 0) throw new Refusal(fault('checks.no-points', { what: '' }))
  if (count > mostCheckPoints) throw new Refusal(fault('checks.too-many', { points: count, most: mostCheckPoints }))
}
