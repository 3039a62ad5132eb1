import { fault } from '#core/faults/catalogue'
import { sql } from 'kysely'
import type { DataType } from '#core/tags/types'
import type { ValueName } from '#core/tags/valueNames'
import { valueNames } from '#shared/valueNames'
import { Refusal } from '../answers/refusal'
import { database } from '../store/database'

export interface SeriesFacts {
  id: number
  path: string
  type: DataType
  unit: string
  /** What its tag calls its values now. */
  names: ValueName[]
}

const namesKept = valueNames.catch([])

/** What is known of series, in the order in which they were asked for. One that was never recorded, and is no tag, is refused. */
export const seriesFacts = async (ids: readonly number[]): Promise<SeriesFacts[]> => {
  const { rows } = await sql<Omit<SeriesFacts, 'names'> & { names: unknown }>`
    select asked.id, coalesce(tag.path, series.path) as path, coalesce(series.type, tag.type) as type, coalesce(tag.unit, series.unit) as unit, tag.names
    from unnest(${[...ids]}::int[]) asked (id)
    left join history_series series on series.id = asked.id left join tag on tag.id = asked.id
    where coalesce(tag.path, series.path) is not null`.execute(database())
  const byId = new Map(rows.map((row) => [row.id, { ...row, names: namesKept.parse(row.names) }]))
  return ids.map((id) => {
    const known = byId.get(id)
    if (!known) throw new Refusal(fault('entry.gone', { thing: 'series', id }))
    return known
  })
}
