import { sql } from 'kysely'
import { listSeries } from '#shared/api/history'
import { pageOfArray } from '#core/lists/paged'
import { defineRoute } from '../../answers/route'
import { recordedSeries } from '#shared/history'
import { database } from '../../store/database'

export default defineRoute(listSeries, async ({ query }) => {
  const { rows } = await sql<object>`
    select series.id, coalesce(tag.path, series.path) as path, series.type, series.unit, series.recording,
      extract(epoch from series.since)::float8 * 1000 as since, tag.id is not null as tag
    from history_series series left join tag on tag.id = series.id`.execute(database())
  return pageOfArray(
    rows.map((row) => recordedSeries.parse(row)),
    query,
    { text: ({ path }) => path, by: { path: ({ path }) => path, id: ({ id }) => id } },
  )
})
