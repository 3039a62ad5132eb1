import { sql } from 'kysely'
import { inputReading, inputWay } from '#core/equipment/inputs'
import { fault } from '#core/faults/catalogue'
import type { PastSample } from '#core/history/pastTable'
import { recordedValue, sampleRecorded } from '#core/history/recordedValue'
import { severityOf } from '#core/tags/quality'
import type { DataType } from '#core/tags/types'
import { pastOffered, type PastOffered } from '#db/history/along'
import { bringIn } from '#db/history/bringIn'
import type { HistoryReader } from '#db/history/reader'
import type { Equipment } from '#shared/equipment/equipment'
import { Refusal } from '../answers/refusal'
import { database, databaseUrl } from '../store/database'
import { historyReader } from '../store/history'
import { modelNow } from './model'

/** So many samples are taken along in one step, which takes some seconds. */
const mostAtOnce = 200_000
const pageSize = 20_000
const longAgo = Date.UTC(1970, 0)

interface Side {
  id: number
  path: string
  type: DataType
  unit: string
}
interface Input extends Side {
  bound: Side
}
export interface InputPast extends PastOffered {
  input: Input
}

/** What was recorded of tags before a piece of equipment, or what is part of it, had them as inputs. */
export const pastOf = async (piece: Equipment): Promise<InputPast[]> => {
  const model = await modelNow(database())
  const ids = [piece, ...model.below(piece.path)].map(({ id }) => id)
  const inputs = new Map((await boundInputs(ids)).map((one) => [one.id, one]))
  const offered = await pastOffered(
    database(),
    [...inputs.values()].map(({ id, bound }) => ({ id, bound: bound.id })),
  )
  return offered.map((one) => ({ ...one, input: inputs.get(one.id)! }))
}

const boundInputs = async (equipment: readonly number[]): Promise<Input[]> => {
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

let turn: Promise<unknown> = Promise.resolve()

/** Takes the next part of that past along, the latest first; one after the other, whoever asks. @returns how many samples */
export const takePastAlong = (piece: Equipment): Promise<number> => {
  const mine = turn.then(() => takeNext(piece))
  turn = mine.catch(() => {})
  return mine
}

const takeNext = async (piece: Equipment): Promise<number> => {
  let taken = 0
  for (const offer of await pastOf(piece)) {
    if (taken >= mostAtOnce) break
    const { samples } = await bringIn(databaseUrl(), samplesFor(historyReader(), offer, mostAtOnce - taken), () => offer.input)
    taken += samples
  }
  return taken
}

/** Samples of the tag that an input is bound to, as the input has them, backwards from where its own begin. */
async function* samplesFor(reader: HistoryReader, { input, to }: InputPast, most: number): AsyncGenerator<PastSample> {
  const way = inputWay(input.bound.unit, input)
  let before = to
  for (let left = most; left > 0;) {
    const page = await reader.samples({ id: input.bound.id, from: longAgo, to: before, most: Math.min(pageSize, left), isBackwards: true })
    for (const sample of page) yield sampleFor(input, way, sample)
    left -= page.length
    if (page.length < pageSize) return
    before = page.at(-1)!.at
  }
}

const sampleFor = (
  input: Input,
  way: ReturnType<typeof inputWay>,
  stored: Parameters<typeof sampleRecorded>[0] & { at: number },
): PastSample => {
  const { value, quality } = sampleRecorded(stored, input.bound.type)
  const known = { series: input.id, at: stored.at, quality }
  if (value === undefined || severityOf(quality) === 'bad') return { ...known, number: NaN, text: null }
  const read = inputReading(value, way)
  if (!read.ok) throw new Refusal(fault('equipment.input', { path: input.path, input: input.bound.path, problem: read.problem }))
  return { ...known, ...recordedValue(read.value) }
}
