/** What a run of registers held over a while: every register at every moment. */
export interface WordSamples {
  /** Unix milliseconds, ascending. */
  times: readonly number[]
  /** By register, then by moment. */
  words: readonly Uint16Array[]
}

/** One moment alone. */
export const oneSample = (words: readonly number[], time = Date.now()): WordSamples => ({
  times: [time],
  words: words.map((word) => Uint16Array.of(word)),
})

/** @param rows by moment, then by register. */
export const samplesFrom = (rows: readonly { at: number; words: readonly number[] }[]): WordSamples => ({
  times: rows.map(({ at }) => at),
  words: (rows[0]?.words ?? []).map((_, register) => Uint16Array.from(rows, ({ words }) => words[register]!)),
})
