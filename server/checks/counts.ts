import { sql, type Kysely } from 'kysely'
import { changedSince, type CheckedTag } from '#core/checks/again'
import { pointStates, stateOf, type Outcome, type PointState } from '#core/checks/state'
import type { Database } from '#db/tables'
import { database } from '../store/database'
import { tagsNow } from './points'

type Counts = Record<PointState, number>

interface Counted {
  sheet_id: number
  tag_id: number
  outcome: Outcome | null
  /** Null: the tag is the same as then, or was not checked; else what it was then. */
  then: CheckedTag | null
  count: number
}

/**
 * Points of sheets by how they are. The database compares what tags were with what they are; only those of which it is not
 * the same are looked at one by one, for not all of that makes a check void.
 */
export const countsOf = async (sheets: readonly number[], db: Kysely<Database> = database()): Promise<Map<number, Counts>> => {
  const counts = new Map(sheets.map((id) => [id, Object.fromEntries(pointStates.map((state) => [state, 0])) as Counts]))
  if (sheets.length === 0) return counts
  const points = await db
    .selectFrom('check_point')
    .select('tag_id')
    .distinct()
    .where(sql<boolean>`sheet_id = any(${[...sheets]})`)
    .execute()
  const tags = await tagsNow(
    points.map(({ tag_id }) => tag_id),
    db,
  )
  const now = JSON.stringify([...tags].map(([tag, { checked }]) => ({ tag, checked })))
  const { rows } = await sql<Counted & { isThere: boolean }>`
    with now as materialized (select tag, checked from jsonb_to_recordset(${now}::jsonb) as now (tag int, checked jsonb)),
    seen as (
      select point.sheet_id, point.tag_id, now.tag is not null as "isThere", last.outcome,
             case when last.checked = now.checked then null else last.checked end as "then"
        from check_point point
        left join now on now.tag = point.tag_id
        left join lateral (
          select outcome, checked from check_result
           where sheet_id = point.sheet_id and tag_id = point.tag_id order by at desc, id desc limit 1
        ) last on true
       where point.sheet_id = any(${[...sheets]})
    )
    select sheet_id, case when "then" is null or outcome <> 'good' then null else tag_id end as tag_id, "isThere", outcome,
           case when outcome = 'good' then "then" end as "then", count(*)::int as count
      from seen group by 1, 2, 3, 4, 5`.execute(db)
  for (const { sheet_id, tag_id, isThere, outcome, then, count } of rows) {
    const changed = !isThere ? null : then === null ? [] : changedSince(then, tags.get(tag_id)!.checked)
    counts.get(sheet_id)![stateOf(outcome, changed)] += count
  }
  return counts
}
