import type { Gappy } from '../../history/filling'
import type { JournalWriter } from '../../journal/journal'
import { momentText } from '#core/text/moment'
import { wholeSeconds } from '#core/text/duration'
import type { Handle } from '../../table/tagTable'
import type { ItemBook } from './items'
import { filledText, fillMissed } from './missed'
import type { Services } from './services'

/** A session over which what was missed can be asked for. */
export interface Back {
  services: Services
  namespaces: readonly string[]
  answerMs: number
  /** How far the server’s clock is ahead of ours, ms. */
  clockAhead(): Promise<number>
  /** It broke, or ended. */
  isOver(): boolean
}

interface Around {
  name: string
  journal: JournalWriter
  book: ItemBook
  gaps: Gappy
}

/** What comes at once goes first, and the server needs a moment to have recorded what it has. */
const settleMs = 3000
const againMs = 30_000

/**
 * Since when something may be missing in the record of a link’s tags, and filling that in once the link is back. Live values never
 * wait for it. Where filling breaks off it begins anew, from the same time on.
 */
export class Outages {
  /** Null: nothing is missing. */
  private from: number | null = null
  /** Of the time before this session each tag’s own record tells since when nothing certain is known. */
  private isFirst = true
  private readonly startedAt = Date.now()
  private timer: NodeJS.Timeout | null = null
  private running = false
  /** Came back once more while it was at work. */
  private next: Back | null = null
  private done: { done: number; of: number } | null = null

  constructor(private around: Around) {}

  /** Nothing came any more. @param at when the last came, Unix ms */
  lost(at: number) {
    this.from ??= at
  }

  /** All that changes is told again from now on. */
  back(here: Back) {
    if (this.running) return void (this.next = here)
    if (this.from === null && !this.isFirst) return
    if (this.timer) clearTimeout(this.timer)
    this.timer = setTimeout(() => void this.fill(here, Date.now()), settleMs)
  }

  /** For the sentence of the link; empty: nothing is being filled in. */
  get text() {
    return this.done ? `filling in what was missed, ${this.done.done} of ${this.done.of} tags` : ''
  }

  close() {
    if (this.timer) clearTimeout(this.timer)
    this.timer = null
    this.next = null
    this.from = null
    this.isFirst = false
  }

  private goOn() {
    const { next } = this
    this.next = null
    if (next) this.back(next)
  }

  private async fill(here: Back, to: number) {
    this.timer = null
    if (here.isOver()) return
    const { book, gaps, name, journal } = this.around
    const { from, isFirst, startedAt } = this
    this.running = true
    try {
      const since = async (handle: Handle) => (isFirst ? await gaps.uncertainSince(handle, startedAt) : null) ?? from
      const clockAhead = await here.clockAhead()
      const filled = await fillMissed(book.all(), since, to, {
        ...{ services: here.services, namespaces: here.namespaces, gaps, answerMs: here.answerMs, clockAhead },
        isOver: () => here.isOver(),
        progress: (done, of) => (this.done = { done, of }),
      })
      if (here.isOver()) return
      const missed = from === null ? 'while it was not at work' : `from ${momentText(from)} on, for ${wholeSeconds(to - from)}`
      if (filled.values > 0) journal.note(name, `What was missed ${missed}, is filled in: ${filledText(filled)}.`)
      else if (filled.notKept > 0 && from !== null)
        journal.note(name, `What was missed ${missed}, cannot be filled in: ${filledText(filled)}.`)
      this.isFirst = false
      // broken meanwhile, it is missing from then on
      if (this.from === from) this.from = null
    } catch (error) {
      if (here.isOver()) return
      journal.caution(name, `What was missed could not be filled in yet: ${(error as Error).message}`)
      this.timer = setTimeout(() => void this.fill(here, Date.now()), againMs)
    } finally {
      this.running = false
      this.done = null
      this.goOn()
    }
  }
}
