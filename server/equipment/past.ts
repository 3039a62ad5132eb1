import { knownSince, workingsOf, type Workings } from '#core/equipment/replay'
import { recordedValue } from '#core/history/recordedValue'
import type { PastSample } from '#core/history/pastTable'
import { beginningsOf, countsIn, type Beginning, type SeriesStretch } from '#db/history/along'
import { bringIn, type SeriesBrought } from '#db/history/bringIn'
import type { HistoryReader } from '#db/history/reader'
import type { Equipment } from '#shared/equipment/equipment'
import { database, databaseUrl } from '../store/database'
import { historyReader } from '../store/history'
import { boundInputs, isConverted, readingOf, type BoundInput } from './inputPast'
import { modelNow, propertiesNow } from './model'
import { leafOf, longAgo, workedOutPast, type Leaf } from './workedOutPast'

/** So many samples are taken along in one step, which takes some seconds. */
const mostAtOnce = 200_000
const pageSize = 20_000
/** Two series are rarely recorded from the very same moment on. */
const leastMs = 60_000

/** What there was before a property of equipment was recorded itself. */
interface Offered {
  /** Up to when its own past begins; Unix milliseconds. */
  from: number
  to: number
  /** About so many samples are read for it. */
  samples: number
  property: SeriesBrought
}
interface InputPast extends Offered {
  input: BoundInput
}
interface WorkedOutPast extends Offered {
  workings: Workings
  leaves: Leaf[]
}
export interface PastOffered {
  /** What was recorded of the tags that inputs are bound to. */
  inputs: InputPast[]
  /** What can be worked out over what is known of the inputs: formulas, and what children have together. */
  workedOut: WorkedOutPast[]
}

/** Everything of a piece of equipment, and of what is part of it, whose past goes further back than what is recorded of it. */
export const pastOf = async (piece: Equipment): Promise<PastOffered> => {
  const model = await modelNow(database())
  const pieces = [piece, ...model.below(piece.path)].map(({ id }) => id)
  const inputs = (await boundInputs(pieces)).filter(isConverted)
  const properties = await propertiesNow(database(), pieces)
  const ids = [...properties.map(({ id }) => id), ...inputs.map(({ bound }) => bound.id)]
  const beginnings = await beginningsOf(database(), ids)
  return {
    inputs: await counted(
      inputs.flatMap((input) => inputPast(input, beginnings)),
      ({ input, from, to }) => [{ id: input.bound.id, from, to }],
    ),
    workedOut: await counted(workedOutPasts(properties, inputs, beginnings), ({ leaves, from, to }) =>
      leaves.flatMap(({ series }) => series.map(({ id }) => ({ id, from, to }))),
    ),
  }
}

/** When what is recorded of a property begins; null: it is not recorded, or nothing has come yet. */
const ownBegin = (beginning: Beginning | undefined) => (beginning?.isRecorded ? beginning.at : null)

const inputPast = (input: BoundInput, beginnings: ReadonlyMap<number, Beginning>): Omit<InputPast, 'samples'>[] => {
  const [from, to] = [beginnings.get(input.bound.id)?.sampleAt ?? null, ownBegin(beginnings.get(input.id))]
  return from === null || to === null || to - from < leastMs ? [] : [{ input, property: input, from, to }]
}

const workedOutPasts = (
  properties: Awaited<ReturnType<typeof propertiesNow>>,
  inputs: readonly BoundInput[],
  beginnings: ReadonlyMap<number, Beginning>,
): Omit<WorkedOutPast, 'samples'>[] => {
  const byPath = new Map(properties.map((one) => [one.path, one]))
  const inputsByPath = new Map(inputs.map((one) => [one.path, one]))
  return properties.flatMap((property) => {
    const to = ownBegin(beginnings.get(property.id))
    const workings = to === null || property.made.kind === 'constant' ? null : workingsOf(property.path, byPath)
    if (to === null || !workings) return []
    const leaves = workings.leaves.map((path) => leafOf(path, byPath.get(path)?.id, inputsByPath.get(path), beginnings))
    const since = new Map(leaves.map((leaf) => [leaf.path, leaf.since]))
    const from = knownSince(workings, (path) => since.get(path)!)
    return Number.isFinite(from) && to - from >= leastMs ? [{ property, workings, leaves, from, to }] : []
  })
}

const counted = async <T>(offers: readonly T[], reads: (offer: T) => SeriesStretch[]): Promise<(T & { samples: number })[]> => {
  const stretches = offers.map(reads)
  const counts = await countsIn(database(), stretches.flat())
  let next = 0
  return offers.map((offer, i) => {
    const own = counts.slice(next, (next += stretches[i]!.length))
    return { ...offer, samples: own.reduce((sum, one) => sum + one, 0) }
  })
}

/** About so many samples are read for all of it. */
export const samplesIn = ({ inputs, workedOut }: PastOffered) => [...inputs, ...workedOut].reduce((sum, { samples }) => sum + samples, 0)

let turn: Promise<unknown> = Promise.resolve()

/** Takes the next part of that past along, the latest first; one after the other, whoever asks. @returns how many samples */
export const takePastAlong = (piece: Equipment): Promise<number> => {
  const mine = turn.then(() => takeNext(piece))
  turn = mine.catch(() => {})
  return mine
}

const takeNext = async (piece: Equipment): Promise<number> => {
  const { inputs, workedOut } = await pastOf(piece)
  let taken = 0
  const take = async ({ property }: Offered, samples: (most: number) => AsyncIterable<PastSample>) => {
    if (taken >= mostAtOnce) return
    taken += (await bringIn(databaseUrl(), samples(mostAtOnce - taken), () => property)).samples
  }
  for (const offer of inputs) await take(offer, (most) => inputSamples(historyReader(), offer, most))
  for (const offer of workedOut) await take(offer, (most) => workedOutPast(historyReader(), offer, most))
  return taken
}

/** Samples of the tag that an input is bound to, as the input has them, backwards from where its own begin. */
async function* inputSamples(reader: HistoryReader, { input, to }: InputPast, most: number): AsyncGenerator<PastSample> {
  const read = readingOf(input)
  let before = to
  for (let left = most; left > 0;) {
    const page = await reader.samples({ id: input.bound.id, from: longAgo, to: before, most: Math.min(pageSize, left), isBackwards: true })
    for (const stored of page) {
      const { value, quality } = read(stored)
      yield { series: input.id, at: stored.at, quality, ...recordedValue(value) }
    }
    left -= page.length
    if (page.length < pageSize) return
    before = page.at(-1)!.at
  }
}
