import type { Gappy } from '../../history/filling'
import type { JournalWriter } from '../../journal/journal'
import { momentText } from '#core/text/moment'
import { wholeSeconds } from '#core/text/duration'
import type { Handle } from '../../table/tagTable'
import type { ItemBook } from './items'
import { filledText, fillMissed } from './missed'
import type { Services } from './services'
import { steadyNow, wallOf } from '#pacing/clock'

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
  /** By the clock that nobody sets; null: nothing is missing. */
  private from: number | null = null
  /** Of the time before this session each tag’s own record tells since when nothing certain is known. */
  private isFirst = true
  private readonly startedAt = steadyNow()
  private timer: NodeJS.Timeout | null = null
  private running = false
  /** Came back once more while it was at work. */
  private next: Back | null = null
  private done: { done: number; of: number } | null = null

  constructor(private around: Around) {}

  /** Nothing came any more. @param at when the last came, by the clock that nobody sets */
  lost(at: number) {
    if (this.from !== null) return
    this.from = at
    this.around.gaps.noteMissing(wallOf(at))
  }

  /** All that changes is told again from now on. */
  back(here: Back) {
    if (this.running) return void (this.next = here)
    if (this.from === null && !this.isFirst) return
    if (this.timer) clearTimeout(this.timer)
    this.timer = setTimeout(() => void this.fill(here), settleMs)
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

  private async fill(here: Back) {
    this.timer = null
    if (here.isOver()) return
    const { book, gaps, name, journal } = this.around
    const { from, isFirst, startedAt } = this
    this.running = true
    try {
      // values carry the times of the far side: a clock of ours that was set meanwhile says nothing about them
      const theirs = wallAt(await here.clockAhead())
      const to = theirs(steadyNow())
      const missing = from === null ? null : theirs(from)
      const before = isFirst ? await leftBefore(gaps, to) : null
      const since = async (handle: Handle) =>
        earliestOf(before, missing, isFirst ? await gaps.uncertainSince(handle, theirs(startedAt)) : null)
      const filled = await fillMissed(book.all(), since, to, {
        ...{ services: here.services, namespaces: here.namespaces, gaps, answerMs: here.answerMs },
        isOver: () => here.isOver(),
        progress: (done, of) => (this.done = { done, of }),
      })
      if (here.isOver()) return
      const missed = missing === null ? 'while it was not at work' : `from ${momentText(missing)} on, for ${wholeSeconds(to - missing)}`
      if (filled.values > 0) journal.note(name, `What was missed ${missed}, is filled in: ${filledText(filled)}.`)
      else if (filled.notKept > 0 && from !== null)
        journal.note(name, `What was missed ${missed}, cannot be filled in: ${filledText(filled)}.`)
      this.isFirst = false
      // broken meanwhile, it is missing from then on
      if (this.from !== from) return
      this.from = null
      gaps.noteMissing(null)
    } catch (error) {
      if (here.isOver()) return
      journal.caution(name, `What was missed could not be filled in yet: ${(error as Error).message}`)
      this.timer = setTimeout(() => void this.fill(here), againMs)
    } finally {
      this.running = false
      this.done = null
      this.goOn()
    }
  }
}

/** Moments of the clock that nobody sets, as the far side’s clock has them; Unix ms. */
const wallAt = (clockAhead: number) => (steady: number) => Math.round(wallOf(steady) + clockAhead)

const earliestOf = (...times: (number | null)[]): number | null => {
  const known = times.filter((time) => time !== null)
  return known.length === 0 ? null : Math.min(...known)
}

const hourMs = 3_600_000

/** Since when whoever ran before had not filled in what was missing; a moment to come was noted by a clock that was wrong. */
const leftBefore = async (gaps: Gappy, now: number): Promise<number | null> => {
  const since = await gaps.missingSince()
  return since !== null && since > now ? now - hourMs : since
}
