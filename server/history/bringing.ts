import { sql } from 'kysely'
import { decoded, encodingOf } from '#core/formats/csv/encoding'
import { fault } from '#core/faults/catalogue'
import { keepingContract } from '#core/history/settings'
import { readPast, WrongPast } from '#core/history/pastTable'
import type { DataType } from '#core/tags/types'
import { bringIn } from '#db/history/bringIn'
import { Refusal } from '../answers/refusal'
import { database, databaseUrl } from '../store/database'

const dayMs = 86_400_000
/** What is fresher is still being recorded. */
const freshMs = 120_000
const mostLines = 2_000_000

interface Known {
  id: number
  path: string
  type: DataType
  unit: string
}

/** Brings a table of the past in, all of it or nothing. */
export const bringTable = async (bytes: Uint8Array): Promise<{ samples: number; series: number }> => {
  const known = await seriesByPath()
  const byId = new Map([...known.values()].map((one) => [one.id, one]))
  const { history } = await database().selectFrom('site').select('history').executeTakeFirstOrThrow()
  const now = Date.now()
  const around = {
    seriesOf: (path: string) => known.get(path),
    ...{ from: now - keepingContract.parse(history).sample * dayMs, to: now - freshMs, most: mostLines },
  }
  try {
    return await bringIn(databaseUrl(), readPast(decoded(bytes, encodingOf(bytes)), around), (id) => byId.get(id)!)
  } catch (error) {
    if (!(error instanceof WrongPast)) throw error
    throw new Refusal(fault('history.table', { line: error.line, problem: error.problem }))
  }
}

/** Every tag by its path, and what was recorded of tags that are gone. */
const seriesByPath = async (): Promise<Map<string, Known>> => {
  const { rows } = await sql<Known>`
    select series.id, series.path, series.type, series.unit from history_series series
      where not exists (select from tag where tag.id = series.id)
    union all
    select tag.id, tag.path, coalesce(series.type, case when tag.scaling is null then tag.type else 'float64' end), tag.unit
      from tag left join history_series series on series.id = tag.id`.execute(database())
  return new Map(rows.map((row) => [row.path, row]))
}
