import { sql, type Kysely, type Selectable } from 'kysely'
import { changedSince, checkedOf, type CheckedTag } from '#core/checks/again'
import { stateOf } from '#core/checks/state'
import { thingsOf } from '#db/rows'
import type { CheckResultTable, Database } from '#db/tables'
import type { CheckedOnce, CheckPoint } from '#shared/checks'
import type { Link } from '#shared/links/link'
import { withoutSecrets } from '#shared/secrets'
import type { Tag } from '#shared/tags'
import { database } from '../store/database'

/** Points of sheets as they were checked last, beside what their tags are now. */

type Db = Kysely<Database>
type ResultRow = Selectable<CheckResultTable>

interface Which {
  /** Only those that were checked again after this check. */
  after?: number | undefined
  /** A part of them by their paths. */
  part?: { offset: number; limit: number } | undefined
}

/** Points of a sheet by their paths, each with its last check, and what is another thing since. */
export const pointsOf = async (id: number, db: Db = database(), { after, part }: Which = {}): Promise<CheckPoint[]> => {
  const points = await db
    .selectFrom('check_point as point')
    .select(['tag_id', 'path'])
    .where('sheet_id', '=', id)
    .$if(after !== undefined, (query) =>
      query.where((eb) =>
        eb.exists(
          eb
            .selectFrom('check_result as result')
            .select('result.id')
            .where('result.sheet_id', '=', id)
            .whereRef('result.tag_id', '=', 'point.tag_id')
            .where('result.id', '>', after!),
        ),
      ),
    )
    .orderBy('path')
    .orderBy('tag_id')
    .$if(part !== undefined, (query) => query.offset(part!.offset).limit(part!.limit))
    .execute()
  const ids = points.map(({ tag_id }) => tag_id)
  const [tags, last] = [await tagsNow(ids, db), await lastOf(id, ids, db)]
  return points.map(({ tag_id, path }) => pointOf(tag_id, path, tags.get(tag_id) ?? null, last.get(tag_id) ?? null))
}

export const countPoints = async (id: number, db: Db = database()): Promise<number> => {
  const counted = db.selectFrom('check_point').select((eb) => eb.fn.countAll<string>().as('count'))
  return Number((await counted.where('sheet_id', '=', id).executeTakeFirstOrThrow()).count)
}

/** Whether a tag is on a sheet. */
export const isOn = async (id: number, tag: number, db: Db = database()): Promise<boolean> => {
  const point = db.selectFrom('check_point').select('tag_id').where('sheet_id', '=', id).where('tag_id', '=', tag)
  return (await point.executeTakeFirst()) !== undefined
}

export interface TagNow {
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
  const byId = new Map(
    thingsOf('link', links).map((link) => [
      link.id,
      { link: link as Link, of: { name: link.name, kind: link.kind, settings: withoutSecrets(link.settings) } },
    ]),
  )
  return new Map(
    thingsOf('tag', rows).map((tag) => {
      const known = tag.source.kind === 'point' ? byId.get(tag.source.linkId) : undefined
      return [tag.id, { tag: tag as Tag, link: known?.link ?? null, checked: checkedOf({ ...tag, link: known?.of ?? null }) }]
    }),
  )
}

type Last = Omit<ResultRow, 'evidence' | 'key' | 'sheet_id'> & { checks: number; isAttached: boolean }

const lastOf = async (sheet: number, tags: readonly number[], db: Db) => {
  const { rows } = await sql<Last>`
    select distinct on (tag_id) id, tag_id, at, received_at, who, way, expected, seen, outcome, remark, checked, revision,
           evidence is not null as "isAttached", count(*) over (partition by tag_id)::int as checks
      from check_result where sheet_id = ${sheet} and tag_id = any(${[...tags]}) order by tag_id, at desc, id desc`.execute(db)
  return new Map(rows.map((row) => [row.tag_id, row]))
}

const pointOf = (tag: number, path: string, now: TagNow | null, last: Last | null): CheckPoint => {
  const changed = now && (last ? changedSince(last.checked, now.checked) : [])
  return {
    ...{ tag, path, ...(now ? factsOf(now) : noFacts) },
    ...{ state: stateOf(last?.outcome ?? null, changed), changed: changed ?? [] },
    ...(last ? { checks: last.checks, last: { ...shownResult(last), isAttached: last.isAttached } } : { checks: 0, last: null }),
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

const shownResult = (row: Omit<Last, 'checks' | 'isAttached'>) => ({
  ...{ id: row.id, at: row.at.getTime(), receivedAt: row.received_at.getTime(), who: row.who, way: row.way },
  ...{ expected: row.expected, seen: row.seen, outcome: row.outcome, remark: row.remark, revision: row.revision },
})

export const shownCheck = (row: ResultRow): CheckedOnce => ({ ...shownResult(row), evidence: row.evidence })
