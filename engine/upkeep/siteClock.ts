import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { z } from 'zod'
import { fault } from '#core/faults/catalogue'
import { momentText } from '#core/text/moment'
import { doubtClock, onClockSet } from '#pacing/clock'
import { note } from '../disk/noteFile'
import type { JournalWriter } from '../journal/journal'

const noteEveryMs = 60_000
/** A site that was off for longer than this may have a wrong clock: nothing is thrown away for a day because of that. */
const longAwayMs = 86_400_000
/** What clocks of machines are apart by themselves is not told. */
const leastToldMs = 2000

const noted = z.object({ aliveAt: z.number() })

/** The clock of the machine: that it was set is told, also where that happened while nothing ran. */
export class SiteClock {
  /** When it was set last, by the clock after that, and by how much, ms. */
  lastSet: { by: number; at: number } | null = null
  private path: string
  private timer: NodeJS.Timeout
  private stopListening: () => void

  constructor(
    stateFolder: string,
    private journal: JournalWriter,
  ) {
    this.path = join(stateFolder, 'clock.json')
    this.lookBack()
    this.stopListening = onClockSet((by) => this.wasSet(by))
    this.timer = setInterval(() => void this.note(), noteEveryMs)
    this.timer.unref()
    void this.note()
  }

  async close() {
    clearInterval(this.timer)
    this.stopListening()
    await this.note()
  }

  private wasSet(by: number) {
    if (Math.abs(by) < leastToldMs) return
    this.lastSet = { by, at: Date.now() }
    const why = fault('upkeep.clock-set', this.lastSet)
    this.journal.caution('Engine', why.what, why)
  }

  /** Where the clock is behind what it was when this site ran last, it was set back meanwhile. */
  private lookBack() {
    const aliveAt = lastAliveAt(this.path)
    if (aliveAt === null) return
    const away = Date.now() - aliveAt
    if (away < 0) {
      doubtClock(away)
      return this.wasSet(away)
    }
    if (away < longAwayMs) return
    doubtClock(away)
    this.journal.note('Engine', `Was off since ${momentText(aliveAt)}, or the clock is ahead: for a day nothing is given up for its age.`)
  }

  private async note() {
    await note(this.path, { aliveAt: Date.now() })
  }
}

const lastAliveAt = (path: string): number | null => {
  try {
    return noted.parse(JSON.parse(readFileSync(path, 'utf8'))).aliveAt
  } catch {
    return null
  }
}
