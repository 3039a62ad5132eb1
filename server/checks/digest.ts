import { createHash } from 'node:crypto'
import { sql, type Kysely } from 'kysely'
import type { Database } from '#db/tables'
import { digestOfParts, touchedParts } from './seal'
import type { CheckSheet } from '#shared/checks'
import { database } from '../store/database'
import { sheetRow } from './sheets'

type Db = Kysely<Database>

/** Hashes of the sheet itself and of each of its points with all checks of it, by their tags. */
export const partsOf = async (id: number, db: Db = database()): Promise<Record<string, string>> => {
  const { name, against, note, made_by, made_at } = await sheetRow(id, db)
  const points = await db.selectFrom('check_point').selectAll().where('sheet_id', '=', id).orderBy('tag_id').execute()
  const hashes = new Map(points.map((point) => [point.tag_id, createHash('sha256').update(canonical(point))]))
  const strays = createHash('sha256').update(canonical({ name, against, note, made_by, made_at }))
  let after = 0
  for (;;) {
    const checks = await checksAfter(id, after, db)
    for (const check of checks) (hashes.get(check.tag_id) ?? strays).update(`\n${canonical(check)}`)
    if (checks.length < atOnce) break
    after = checks.at(-1)!.id
  }
  return { sheet: strays.digest('hex'), ...Object.fromEntries([...hashes].map(([tag, hash]) => [tag, hash.digest('hex')])) }
}

/** So many checks are in memory at once, with their evidence. */
const atOnce = 500

const checksAfter = (id: number, after: number, db: Db) =>
  db.selectFrom('check_result').selectAll().where('sheet_id', '=', id).where('id', '>', after).orderBy('id').limit(atOnce).execute()

/** SHA-256 over the sheet, its points and every check of it: what is another one later was changed. */
export const digestNow = async (id: number, db: Db = database()): Promise<string> => digestOfParts(await partsOf(id, db))

interface Digest {
  digestNow: string
  /** What was changed since it was closed. */
  touched: { what: 'added' | 'removed' | 'changed'; path: string | null }[]
}

export const digestOfSheet = async (sheet: Pick<CheckSheet, 'id' | 'digest'>): Promise<Digest> => {
  const now = await partsOf(sheet.id)
  const digest = digestOfParts(now)
  const { sealed } = await sheetRow(sheet.id)
  if (sheet.digest === null || sheet.digest === digest) return { digestNow: digest, touched: [] }
  // hashes that do not make the digest are no witnesses
  const parts = sealed !== null && digestOfParts(sealed) === sheet.digest ? touchedParts(sealed, now) : []
  const paths = await pathsOf(sheet.id, parts.map(({ key }) => Number(key)).filter(Number.isInteger))
  return {
    digestNow: digest,
    touched: parts
      .slice(0, mostTold)
      .map(({ what, key }) => ({ what, path: key === 'sheet' ? null : (paths.get(Number(key)) ?? `tag ${key}`) })),
  }
}

const mostTold = 1000

const pathsOf = async (sheet: number, tags: readonly number[]) => {
  const { rows } = await sql<{ id: number; path: string }>`
    select tag_id as id, path from check_point where sheet_id = ${sheet} and tag_id = any(${[...tags]})
    union all select id, path from tag where id = any(${[...tags]})`.execute(database())
  return new Map(rows.map(({ id, path }) => [id, path]))
}

/** The same text for the same thing, in whatever order its parts come. */
const canonical = (thing: unknown): string => {
  if (Array.isArray(thing)) return `[${thing.map(canonical).join()}]`
  if (typeof thing !== 'object' || thing === null || thing instanceof Date) return JSON.stringify(thing) ?? 'null'
  const parts = Object.entries(thing).sort(([a], [b]) => (a < b ? -1 : 1))
  return `{${parts.map(([name, value]) => `${JSON.stringify(name)}:${canonical(value)}`).join()}}`
}
