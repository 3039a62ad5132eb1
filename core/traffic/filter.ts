/** Which frames are shown. */
export interface FrameFilter {
  /** In small letters; all of them occur in what the frame is. */
  words: string[]
  outcome: 'any' | 'trouble' | 'refused' | 'odd' | 'unanswered'
  connection: number | null
  /** A field that means this. */
  field: { name: string; means: string } | null
  /** Requests and answers with more between them. */
  slowerMs: number | null
}

export const allFrames: FrameFilter = { words: [], outcome: 'any', connection: null, field: null, slowerMs: null }

export const isEverything = (filter: FrameFilter) =>
  filter.words.length === 0 && filter.outcome === 'any' && filter.connection === null && filter.field === null && filter.slowerMs === null

/** What a person types, as words. */
export const wordsOf = (text: string): string[] => text.toLowerCase().split(/\s+/).filter(Boolean)
