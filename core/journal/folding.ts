import type { Entry } from './entry'

/** What is the same again within so long is counted, and no entry of its own. */
export const foldedForMs = 10 * 60_000
/** So many different ones are remembered, to know them again. */
const mostRemembered = 2000

const keyOf = ({ severity, source, text, fault }: Pick<Entry, 'severity' | 'source' | 'text' | 'fault'>) =>
  [severity, source, text, fault?.code ?? ''].join('\0')

/**
 * Folds what happens again and again into one entry with a count: the same severity, source, text and code, within ten
 * minutes of the first time.
 *
 * @example
 * const same = folding.again(entry) // the entry that counts it, or null: it is new
 */
export class Folding<E extends Entry> {
  private open = new Map<string, E>()

  /** Counts it in the entry that is like it. Null: there is none, and this one is remembered. */
  again(entry: E): E | null {
    const key = keyOf(entry)
    const first = this.open.get(key)
    if (first && isWithin(first, entry.at)) {
      first.times += entry.times
      first.lastAt = entry.at
      return first
    }
    // anew at the end: the order is that of the first times
    this.open.delete(key)
    this.open.set(key, entry)
    if (this.open.size > mostRemembered) this.open.delete(this.open.keys().next().value!)
    return null
  }

  /** It is kept nowhere any more: the same again is a new one. */
  forget(entry: E) {
    const key = keyOf(entry)
    if (this.open.get(key) === entry) this.open.delete(key)
  }

  clear() {
    this.open.clear()
  }
}

/** A clock that was set back folds nothing into what is ahead of it. */
const isWithin = (first: Entry, at: number) => at >= first.at && at - first.at < foldedForMs
