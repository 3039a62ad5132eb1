import type { Interval } from '#core/history/intervals'
import { SlowHistory, type HistoryReader } from '#db/history/reader'
import type { ReplacedSample, SamplesAsked, StoredSample } from '#db/history/samples'

/** What was recorded, as consumers ask for it. Questions that the database does not answer in time reject. */
export interface Past {
  /** Whether a tag is recorded now. */
  isRecorded(tagId: number): boolean
  samples(asked: SamplesAsked): Promise<StoredSample[]>
  replaced(asked: SamplesAsked): Promise<ReplacedSample[]>
  /** At which times of a span a sample took the place of others. */
  hiding(asked: Pick<SamplesAsked, 'id' | 'from' | 'to'>): Promise<number[]>
  /** The last sample at or before each time. */
  at(tagId: number, times: readonly number[]): Promise<(StoredSample | null)[]>
  intervals(tagId: number, borders: readonly number[]): Promise<Interval[]>
  /** The clock by which days and months begin. */
  zone(): string
}

/** Nothing is recorded here. */
export class NoHistory extends Error {
  constructor() {
    super('nothing is recorded here')
  }
}

/** What came so lately may be on its way to the database yet. */
const latelyMs = 5000

/** @param settled resolves once all that came until now is in the database */
export const pastOf = (
  reader: () => HistoryReader | null,
  recorded: (tagId: number) => boolean,
  zone: () => string,
  settled: () => Promise<void>,
): Past => {
  const there = async () => {
    const found = reader()
    if (!found) throw new NoHistory()
    return found
  }
  let settling: Promise<void> | null = null
  /** Whoever asks for what came just now gets that as well. */
  const upTo = async (time: number) => {
    const found = await there()
    if (time > Date.now() - latelyMs) await (settling ??= settled().finally(() => (settling = null)))
    return found
  }
  return {
    isRecorded: recorded,
    samples: async (asked) => (await upTo(asked.to)).samples(asked),
    replaced: async (asked) => (await upTo(asked.to)).replaced(asked),
    hiding: async (asked) => (await upTo(asked.to)).hiding(asked),
    at: async (tagId, times) => (await (await upTo(Math.max(...times))).at([tagId], times)).get(tagId)!,
    intervals: async (tagId, borders) => (await upTo(borders.at(-1) ?? 0)).intervals(tagId, borders),
    zone,
  }
}

/** Why something was not read, for whoever asked. */
export const whyNot = (error: unknown): string =>
  error instanceof NoHistory || error instanceof SlowHistory ? error.message : 'the database does not answer'
