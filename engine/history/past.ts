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

export const pastOf = (reader: () => HistoryReader | null, recorded: (tagId: number) => boolean, zone: () => string): Past => {
  const there = async () => {
    const found = reader()
    if (!found) throw new NoHistory()
    return found
  }
  return {
    isRecorded: recorded,
    samples: async (asked) => (await there()).samples(asked),
    replaced: async (asked) => (await there()).replaced(asked),
    hiding: async (asked) => (await there()).hiding(asked),
    at: async (tagId, times) => (await (await there()).at([tagId], times)).get(tagId)!,
    intervals: async (tagId, borders) => (await there()).intervals(tagId, borders),
    zone,
  }
}

/** Why something was not read, for whoever asked. */
export const whyNot = (error: unknown): string =>
  error instanceof NoHistory || error instanceof SlowHistory ? error.message : 'the database does not answer'
