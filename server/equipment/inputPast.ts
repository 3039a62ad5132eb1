import { sql } from 'kysely'
import { inputReading, inputWay, type InputWay } from '#core/equipment/inputs'
import { sampleRecorded } from '#core/history/recordedValue'
import { quality, severityOf } from '#core/tags/quality'
import type { DataType, TagValue } from '#core/tags/types'
import type { StoredSample } from '#db/history/samples'
import { database } from '../store/database'

interface Side {
  id: number
  path: string
  type: DataType
  unit: string
}

/** An input of equipment, and the tag that it is bound to, with the type of which it was recorded. */
export interface BoundInput extends Side {
  bound: Side
}

export const boundInputs = async (equipment: readonly number[]): Promise<BoundInput[]> => {
  const { rows } = await sql<Record<'id' | 'boundId', number> & Record<'path' | 'boundPath' | 'unit' | 'boundUnit', string> & Record<'type' | 'boundType', DataType>>`
    select input.id, input.path, input.type, input.unit, bound.id as "boundId", bound.path as "boundPath", bound.unit as "boundUnit",
      coalesce(series.type, case when bound.scaling is null then bound.type else 'float64' end) as "boundType"
    from tag input join tag bound on bound.path = input.options -> 'made' ->> 'path'
    left join history_series series on series.id = bound.id
    where input.source = 'property' and input.options -> 'made' ->> 'kind' = 'input' and input.equipment_id = any(${[...equipment]}::int[])`.execute(
    database(),
  ) // prettier-ignore
  return rows.map(({ id, path, type, unit, boundId, boundPath, boundType, boundUnit }) => ({
    ...{ id, path, type, unit },
    bound: { id: boundId, path: boundPath, type: boundType, unit: boundUnit },
  }))
}

/** Whether the units go together. */
export const isConverted = (input: BoundInput) => inputWay(input.bound.unit, input).isKnown

/** How what was recorded of the tag that an input is bound to becomes what the input had: as if it had come then. */
export const readingOf = (input: BoundInput): ((stored: StoredSample) => { value: TagValue | undefined; quality: number }) => {
  const way: InputWay = inputWay(input.bound.unit, input)
  return (stored) => {
    const { value, quality: code } = sampleRecorded(stored, input.bound.type)
    if (value === undefined || severityOf(code) === 'bad') return { value: undefined, quality: code }
    const read = inputReading(value, way)
    return read.ok ? { value: read.value, quality: code } : { value: undefined, quality: quality.BadTypeMismatch }
  }
}
