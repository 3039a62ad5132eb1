import type { Selectable } from 'kysely'
import { fault } from '#core/faults/catalogue'
import { visible } from '#core/text/visible'
import { thingOf } from '#db/rows'
import type { BenchTable } from '#db/tables'
import { benchPoint, benchResult, benchTag, mostOfText, type BenchEntry, type BenchPoint, type BenchResult } from '#shared/bench'
import { isFrom, settled, tagProblems } from '#shared/sources/registry'
import type { Link } from '#shared/links/link'
import { invalid } from '../answers/checked'
import { Refusal } from '../answers/refusal'
import { database } from '../store/database'

/** The points that people try without making tags. */

/** By its contract. */
export const shownEntry = ({ id, point, last, made_at }: Selectable<BenchTable>): BenchEntry => ({
  ...benchPoint.parse(point),
  id,
  last: last === null ? null : benchResult.parse(last),
  madeAt: made_at.toISOString(),
})

/** Those that can be read: one that another version wrote must not hide the others. */
export const readableEntries = (rows: readonly Selectable<BenchTable>[]): BenchEntry[] =>
  rows.flatMap((row) => {
    try {
      return [shownEntry(row)]
    } catch {
      return []
    }
  })

export const entryOf = async (person: number, id: number): Promise<BenchEntry> => {
  const row = await database().selectFrom('bench').selectAll().where('person_id', '=', person).where('id', '=', id).executeTakeFirst()
  if (!row) throw new Refusal(fault('bench.not-there', { id }))
  return shownEntry(row)
}

/** What came from a far side may be long, and hold what no text of the database may. */
const storable = (text: string) => visible(text).slice(0, mostOfText)

export const noteResult = async (id: number, last: BenchResult): Promise<BenchEntry> => {
  const row = await database()
    .updateTable('bench')
    .set({ last: JSON.stringify({ ...last, text: storable(last.text), came: storable(last.came) }) })
    .where('id', '=', id)
    .returningAll()
    .executeTakeFirst()
  if (!row) throw new Refusal(fault('bench.not-there', { id }))
  return shownEntry(row)
}

export const linksById = async (ids: readonly number[]): Promise<ReadonlyMap<number, Link>> => {
  const rows = await database()
    .selectFrom('link')
    .selectAll()
    .where('id', 'in', [...new Set(ids)])
    .execute()
  return new Map(rows.map((row) => [row.id, thingOf('link', row)]))
}

/** The points as they are kept: addresses in their lasting form. Refuses all where one is not right. */
export const checkedPoints = async (points: readonly BenchPoint[], pathOf: (at: number) => string): Promise<BenchPoint[]> => {
  const links = await linksById(points.map(({ linkId }) => linkId))
  const linkOf = (id: number) => links.get(id)
  const problems = points.flatMap((point, at) =>
    tagProblems(benchTag(point), linkOf).map(({ path, message }) => ({ path: `${pathOf(at)}${path.replace(/^source\./, '')}`, message })),
  )
  if (problems.length > 0) throw invalid(problems)
  return points.map((point) => {
    const tag = settled(benchTag(point), linkOf)
    return isFrom('point', tag) ? { ...point, address: tag.source.address, options: tag.source.options } : point
  })
}
