import { wordsOf } from '../lists/paged'
import type { Entry, EntryFilter } from './entry'

/** Whether an entry is what somebody looks for. What happened over a while is in every part of it. */
export const entryMatcher = ({ find, severity, source, from, to }: EntryFilter): ((entry: Entry) => boolean) => {
  const words = wordsOf(find?.toLowerCase())
  return (entry) => {
    if (severity !== undefined && entry.severity !== severity) return false
    if (source !== undefined && entry.source !== source) return false
    if (from !== undefined && entry.lastAt < from) return false
    if (to !== undefined && entry.at >= to) return false
    if (words.length === 0) return true
    const [text, place] = [entry.text.toLowerCase(), entry.source.toLowerCase()]
    return words.every((word) => text.includes(word) || place.includes(word))
  }
}
