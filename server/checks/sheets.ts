import { createHash } from 'node:crypto'
import { sql, type Kysely, type Selectable } from 'kysely'
import { changedSince, checkedOf, type CheckedTag } from '#core/checks/again'
import { pointStates, stateOf, type PointState } from '#core/checks/state'
import { fault } from '#core/faults/catalogue'
import { thingsOf } from '#db/rows'
import type { CheckResultTable, CheckSheetTable, Database } from '#db/tables'
import { mostCheckPoints, type CheckedOnce, type CheckPoint, type CheckSheet } from '#shared/checks'
import type { Link } from '#shared/links/link'
import { withoutSecrets } from '#shared/secrets'
import type { Tag } from '#shared/tags'
import { Refusal } from '../answers/refusal'
import { database } from '../store/database'
import { plain } from '../store/likeText'

/** Sheets by which points are checked one by one, as the database has them beside what the tags are now. */

type Db = Kysely<Database>
type SheetRow = Selectable<CheckSheetTable>
type ResultRow = Selectable<CheckResultTable>

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

/** All points of a sheet by their paths, each with its last check, and what is another thing since. */
export const pointsOf = async (id: number, db: Db = database()): Promise<CheckPoint[]> => {
  const points = await db.selectFrom('check_point').selectAll().where('sheet_id', '=', id).orderBy('path').execute()
  const ids = points.map(({ tag_id }) => tag_id)
  const [tags, last] = [await tagsNow(ids, db), await lastOf(id, db)]
  return points.map(({ tag_id, path }) => pointOf(tag_id, path, tags.get(tag_id) ?? null, last.get(tag_id) ?? null))
}

interface TagNow {
  tag: Tag
  link: Link | null
  checked: CheckedTag
}

/** Tags as they are now, with what decides their values. */
export const tagsNow = async (ids: readonly number[], db: Db = database()): Promise<Map<number, TagNow>> => {
  const [rows, links] = [
    await db
      .selectFrom('tag')
      .selectAll()
      .where(sql<boolean>`id = any(${[...ids]})`)
      .execute(),
    await db.selectFrom('link').selectAll().execute(),
  ]
  const byId = new Map(thingsOf('link', links).map((link) => [link.id, link as Link]))
  return new Map(
    thingsOf('tag', rows).map((tag) => {
      const link = tag.source.kind === 'point' ? (byId.get(tag.source.linkId) ?? null) : null
      const of = link && { name: link.name, kind: link.kind, settings: withoutSecrets(link.settings) }
      return [tag.id, { tag: tag as Tag, link, checked: checkedOf({ ...tag, link: of }) }]
    }),
  )
}

const lastOf = async (sheet: number, db: Db) => {
  const { rows } = await sql<ResultRow & { checks: number }>`
    select distinct on (tag_id) *, count(*) over (partition by tag_id)::int as checks
      from check_result where sheet_id = ${sheet} order by tag_id, at desc, id desc`.execute(db)
  return new Map(rows.map((row) => [row.tag_id, row]))
}

type Last = ResultRow & { checks: number }

const pointOf = (tag: number, path: string, now: TagNow | null, last: Last | null): CheckPoint => {
  const changed = now && (last ? changedSince(last.checked, now.checked) : [])
  return {
    ...{ tag, path, ...(now ? factsOf(now) : noFacts) },
    ...{ state: stateOf(last?.outcome ?? null, changed), changed: changed ?? [] },
    ...(last ? { checks: last.checks, last: shownCheck(last) } : { checks: 0, last: null }),
  }
}

type Facts = Pick<CheckPoint, 'source' | 'unit' | 'writable' | 'type' | 'names'>

/** Of a tag that is gone. */
const noFacts: Facts = { source: '', unit: '', writable: false, type: 'string', names: [] }

const factsOf = (now: TagNow): Facts & { path: string } => {
  const { path, unit, access, type, names } = now.tag
  return { path, source: sourceText(now), unit, writable: access === 'readwrite', type, names }
}

const sourceText = ({ tag: { source }, link }: TagNow) =>
  source.kind === 'point' ? `${link?.name ?? 'no link'}, ${source.address}` : source.kind

export const shownCheck = (row: ResultRow): CheckedOnce => ({
  ...{ at: row.at.getTime(), receivedAt: row.received_at.getTime(), who: row.who, way: row.way, expected: row.expected, seen: row.seen },
  ...{ outcome: row.outcome, remark: row.remark, evidence: row.evidence, revision: row.revision },
})

export const shownSheet = (row: SheetRow, points: readonly CheckPoint[]): CheckSheet => {
  const counts = Object.fromEntries(pointStates.map((state) => [state, 0])) as Record<PointState, number>
  for (const { state } of points) counts[state]++
  return {
    ...{ id: row.id, name: row.name, against: row.against, note: row.note, madeBy: row.made_by, madeAt: row.made_at.getTime() },
    ...{ closedBy: row.closed_by, closedAt: row.closed_at?.getTime() ?? null, digest: row.digest, points: points.length, counts },
  }
}

/** SHA-256 over the sheet, its points and every check of it, in their order: what is another one later was changed. */
export const digestOf = async (id: number, db: Db = database()): Promise<string> => {
  const { name, against, note, made_by, made_at } = await sheetRow(id, db)
  const points = await db.selectFrom('check_point').selectAll().where('sheet_id', '=', id).orderBy('tag_id').execute()
  const checks = await db.selectFrom('check_result').selectAll().where('sheet_id', '=', id).orderBy('id').execute()
  const hash = createHash('sha256')
  for (const part of [{ name, against, note, made_by, made_at }, ...points, ...checks]) hash.update(`${canonical(part)}\n`)
  return hash.digest('hex')
}

/** The same text for the same thing, in whatever order its parts come. */
const canonical = (thing: unknown): string => {
  if (Array.isArray(thing)) return `[${thing.map(canonical).join()}]`
  if (typeof thing !== 'object' || thing === null || thing instanceof Date) return JSON.stringify(thing) ?? 'null'
  const parts = Object.entries(thing).sort(([a], [b]) => (a < b ? -1 : 1))
  return `{${parts.map(([name, value]) => `${JSON.stringify(name)}:${canonical(value)}`).join()}}`
}

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
  const { count } = await db
    .selectFrom('check_point')
    .select((eb) => eb.fn.countAll<number>().as('count'))
    .where('sheet_id', '=', sheet)
    .executeTakeFirstOrThrow()
  if (Number(count) === 0) throw new Refusal(fault('checks.no-points', { what: '' }))
  if (Number(count) > mostCheckPoints) throw new Refusal(fault('checks.too-many', { points: Number(count), most: mostCheckPoints }))
}
