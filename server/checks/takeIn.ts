import { fault } from '#core/faults/catalogue'
import type { z } from 'zod'
import type { CheckDraft, checksAnswer } from '#shared/checks'
import { database } from '../store/database'
import { openSheet, tagsNow } from './sheets'

/**
 * Takes checks in, each with what its tag is now: what becomes another thing afterwards has to be checked again. Those that
 * are in already stay as they are.
 */
export const takeIn = (sheet: number, who: string, checks: readonly CheckDraft[]): Promise<z.output<typeof checksAnswer>> =>
  database()
    .transaction()
    .execute(async (db) => {
      await openSheet(sheet, db)
      const { revision } = await db.selectFrom('site').select('revision').executeTakeFirstOrThrow()
      const points = await db.selectFrom('check_point').select('tag_id').where('sheet_id', '=', sheet).execute()
      const on = new Set(points.map(({ tag_id }) => tag_id))
      const tags = await tagsNow(
        checks.map(({ tag }) => tag),
        db,
      )
      const isThere = ({ tag }: CheckDraft) => on.has(tag) && tags.has(tag)
      const good = checks.filter(isThere)
      if (good.length > 0)
        await db
          .insertInto('check_result')
          .values(
            good.map(({ tag, at, evidence, ...check }) => ({
              ...check,
              ...{ sheet_id: sheet, tag_id: tag, at: new Date(at), who, revision },
              evidence: evidence && JSON.stringify(evidence),
              checked: JSON.stringify(tags.get(tag)!.checked),
            })),
          )
          .onConflict((conflict) => conflict.column('key').doNothing())
          .execute()
      const refused = checks.filter((check) => !isThere(check)).map(({ key, tag }) => ({ key, fault: fault('checks.not-on', { tag }) }))
      return { taken: good.map(({ key }) => key), refused }
    })
