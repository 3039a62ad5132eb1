import { Replay, type HadAt, type Workings } from '#core/equipment/replay'
import { recordedValue, sampleRecorded } from '#core/history/recordedValue'
import type { PastSample } from '#core/history/pastTable'
import type { Beginning } from '#db/history/along'
import type { HistoryReader } from '#db/history/reader'
import type { StoredSample } from '#db/history/samples'
import { Turns } from '#pacing/turns'
import { readingOf, type BoundInput } from './inputPast'

/** The past of properties that are worked out from others: what they would have been. */

/** What is read as it was recorded: the series of a path, the latest first, each up to where the one before it begins. */
export interface Leaf {
  path: string
  series: { id: number; read(stored: StoredSample): { value: HadAt['value']; quality: number } }[]
  /** Unix milliseconds; Infinity: nothing was recorded. */
  since: number
}

/** A property by itself where it was recorded; an input before that as the tag that it is bound to. */
export const leafOf = (
  path: string,
  own: number | undefined,
  input: BoundInput | undefined,
  beginnings: ReadonlyMap<number, Beginning>,
): Leaf => {
  const [mine, its] = [beginnings.get(own ?? 0), beginnings.get(input?.bound.id ?? 0)]
  const series: Leaf['series'] = []
  if (mine?.sampleAt != null) series.push({ id: mine.id, read: (stored) => sampleRecorded(stored, mine.type) })
  if (input && its?.sampleAt != null) series.push({ id: its.id, read: readingOf(input) })
  return { path, series, since: Math.min(mine?.sampleAt ?? Infinity, its?.sampleAt ?? Infinity) }
}

interface Page {
  path: string
  /** In the order of their times. */
  samples: HadAt[]
  /** Whether there are more before these. */
  isCut: boolean
}

/** So many samples before the part at hand are gone through for what holds when it begins, and what was before that. */
const runIn = 100
const leastPage = 20

/**
 * The last part of what a property would have been before a moment, in the order of its times; the first of it says what
 * held as the part begins, so that the next part ends there.
 *
 * @param most samples are read for it, about
 */
export async function* workedOutPast(
  reader: HistoryReader,
  { property: { id }, workings, leaves, to }: { property: { id: number }; workings: Workings; leaves: readonly Leaf[]; to: number },
  most: number,
): AsyncGenerator<PastSample> {
  const each = Math.max(leastPage, Math.floor(most / leaves.length))
  const pages: Page[] = []
  for (const leaf of leaves) pages.push(await lastPage(reader, leaf, to, each))
  const cuts = pages.filter(({ isCut }) => isCut).map(({ samples }) => samples[Math.min(runIn, samples.length >> 1)]!.at)
  const begin = Math.max(-Infinity, ...cuts)
  const replay = new Replay(workings)
  const turns = new Turns()
  for (const { at, parts } of moments(pages)) {
    if (turns.isOver) await turns.next()
    for (const { path, sample } of parts) replay.take(path, sample)
    const came = replay.settle(at)
    const had = at === begin && replay.present ? { ...replay.present, at } : came
    if (had && at >= begin) yield sampleOf(id, had)
  }
}

const sampleOf = (series: number, { at, value, quality }: HadAt): PastSample => ({ series, at, quality, ...recordedValue(value) })

const lastPage = async (reader: HistoryReader, { path, series }: Leaf, before: number, most: number): Promise<Page> => {
  const samples: HadAt[] = []
  let to = before
  for (const { id, read } of series) {
    const asked = most - samples.length
    const page = await reader.samples({ id, from: longAgo, to, most: asked, isBackwards: true })
    for (const stored of page) samples.push({ at: stored.at, ...read(stored) })
    if (page.length === asked) return { path, samples: samples.reverse(), isCut: true }
    to = page.at(-1)?.at ?? to
  }
  return { path, samples: samples.reverse(), isCut: false }
}

export const longAgo = Date.UTC(1970, 0)

/** All that was of one moment together, in the order of times. */
function* moments(pages: readonly Page[]): Generator<{ at: number; parts: { path: string; sample: HadAt }[] }> {
  const all = pages.flatMap(({ path, samples }) => samples.map((sample) => ({ path, sample })))
  all.sort((a, b) => a.sample.at - b.sample.at)
  for (let i = 0; i < all.length;) {
    const { at } = all[i]!.sample
    const parts = []
    for (; i < all.length && all[i]!.sample.at === at; i++) parts.push(all[i]!)
    yield { at, parts }
  }
}
