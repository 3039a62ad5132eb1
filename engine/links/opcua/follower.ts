import type { BranchPart, Place } from '#shared/browse'
import type { JournalWriter } from '../../journal/journal'
import type { FoundBranch } from '../driver'
import type { Explorer } from './browse'
import { branch } from './crawl'

interface Around {
  name: string
  journal: JournalWriter
  explorer: Explorer
  place: Place
  take(found: FoundBranch): void
}

/** Looking takes no more than a hundredth of the time, and is not done more often than this. */
const leastPauseMs = 15_000
const share = 100

/** Looks again and again what is below a place of the server, for as long as its session lasts. */
export class Follower {
  private abort = new AbortController()
  private timer: NodeJS.Timeout | null = null
  private isTold = false

  constructor(private around: Around) {
    void this.look()
  }

  close() {
    this.abort.abort()
    if (this.timer) clearTimeout(this.timer)
  }

  private async look() {
    const { signal } = this.abort
    const began = performance.now()
    try {
      const found = await this.found(signal)
      if (signal.aborted) return
      this.around.take(found)
      this.isTold = false
    } catch (error) {
      if (signal.aborted) return
      if (!this.isTold)
        this.around.journal.caution(this.around.name, `What is to be taken over could not be looked at: ${(error as Error).message}`)
      this.isTold = true
    }
    this.timer = setTimeout(() => void this.look(), Math.max(leastPauseMs, (performance.now() - began) * share))
  }

  private async found(signal: AbortSignal): Promise<FoundBranch> {
    const { explorer, place } = this.around
    const points: BranchPart['points'] = []
    let isWhole = true
    for await (const part of branch(explorer, place, signal)) {
      points.push(...part.points)
      if (part.failed.length > 0) isWhole = false
    }
    return { points, isWhole }
  }
}
