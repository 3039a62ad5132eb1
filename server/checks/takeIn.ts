import { fault, type Fault } from '#core/faults/catalogue'
import type { Kysely } from 'kysely'
import type { z } from 'zod'
import type { Database } from '#db/tables'
import type { CheckDraft, checksAnswer } from '#shared/checks'
import { database } from '../store/database'
import { tagsNow, type TagNow } from './points'
import { openSheet } from './sheets'

/**
 * Takes checks in, each with what its tag is now: what becomes another thing afterwards has to be checked again. Those that
 * are in already stay as they are.
 */
export const takeIn = (sheet: number, who: string, checks: readonly CheckDraft[]): Promise<z.output<typeof checksAnswer>> =>
  database()
    .transaction()
    .execute(async (db) => {
      await openSheet(sheet, db)
      const tags = await tagsOn(sheet, checks, db)
      const good = checks.filter(({ tag }) => tags.has(tag))
      await add(sheet, who, good, tags, db)
      const holders = await holdersOf(sheet, good, db)
      const refusalOf = ({ key, tag }: CheckDraft): Fault | null =>
        !tags.has(tag)
          ? fault('checks.not-on', { tag })
          : holders.get(key.toLowerCase()) === tag
            ? null
            : fault('checks.key-taken', { key })
      const judged = checks.map((check) => ({ key: check.key, fault: refusalOf(check) }))
      return {
        taken: judged.filter(({ fault }) => fault === null).map(({ key }) => key),
        refused: judged.flatMap(({ key, fault }) => (fault ? [{ key, fault }] : [])),
      }
    })

/** Tags of these checks that are there and on the sheet. */
const tagsOn = async (sheet: number, checks: readonly CheckDraft[], db: Kysely<Database>): Promise<Map<number, TagNow>> => {
  const points = await db
    .selectFrom('check_point')
    .select('tag_id')
    .where('sheet_id', '=', sheet)
    .where((eb) => eb('tag_id', '=', eb.fn.any(eb.val(checks.map(({ tag }) => tag)))))
    .execute()
  return tagsNow(
    points.map(({ tag_id }) => tag_id),
    db,
  )
}

const add = async (sheet: number, who: string, checks: readonly CheckDraft[], tags: Map<number, TagNow>, db: Kysely<Database>) => {
  if (checks.length === 0) return
  const { revision } = await db.selectFrom('site').select('revision').executeTakeFirstOrThrow()
  const now = Date.now()
  await db
    .insertInto('check_result')
    .values(
      checks.map(({ tag, at, evidence, ...check }) => ({
        ...check,
        // a clock that is ahead must not make this the last check for ever
        ...{ sheet_id: sheet, tag_id: tag, at: new Date(Math.min(at, now)), who, revision },
        evidence: evidence && JSON.stringify(evidence),
        checked: JSON.stringify(tags.get(tag)!.checked),
      })),
    )
    .onConflict((conflict) => conflict.columns(['sheet_id', 'key']).doNothing())
    .execute()
}

/** Of which tag the checks are that have these keys. */
const holdersOf = async (sheet: number, checks: readonly CheckDraft[], db: Kysely<Database>) => {
  const rows = await db
    .selectFrom('check_result')
    .select(['key', 'tag_id'])
    .where('sheet_id', '=', sheet)
    .where((eb) => eb('key', '=', eb.fn.any(eb.val(checks.map(({ key }) => key)))))
    .execute()
  return new Map(rows.map(({ key, tag_id }) => [key, tag_id]))
}
