import type { EntryFilter, KeptEntry } from './entry'
import { entryMatcher } from './matching'
import type { CountedMoment } from './picture'

/** Which page of what matches: those before a number, so many left out of them. */
export interface EntriesAsked extends EntryFilter {
  before?: number | undefined
  offset: number
  limit: number
}

/** The newest first. @param kept the oldest first @param most where counting ends */
export const entriesPage = (kept: readonly KeptEntry[], { before, offset, limit, ...filter }: EntriesAsked, most: number) => {
  const matches = entryMatcher(filter)
  const items: KeptEntry[] = []
  let total = 0
  for (let i = kept.length - 1; i >= 0 && total < most; i--) {
    const entry = kept[i]!
    if ((before !== undefined && entry.id >= before) || !matches(entry)) continue
    if (total >= offset && items.length < limit) items.push(entry)
    total++
  }
  return { total, offset, items }
}

/** How often what matches happened in each bar of a width. @returns moments are the begins of bars */
export const countedIn = (kept: readonly KeptEntry[], filter: EntryFilter, width: number): CountedMoment[] => {
  const counts = new Map<string, CountedMoment>()
  const matches = entryMatcher(filter)
  for (const entry of kept) {
    if (!matches(entry)) continue
    const at = Math.floor(entry.at / width) * width
    const key = `${at} ${entry.severity}`
    const counted = counts.get(key) ?? { at, severity: entry.severity, times: 0 }
    counted.times += entry.times
    counts.set(key, counted)
  }
  return [...counts.values()]
}
