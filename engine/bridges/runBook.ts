import type { BridgeRun } from '#shared/bridges/status'

const mostRuns = 300
const mostFailures = 300
/** Of more than so many a second, some are remembered. */
const mostEachSecond = 10

/** The last runs of a bridge: every one that failed, and of the others as many as can be looked at. */
export class RunBook {
  private sound: BridgeRun[] = []
  private failed: BridgeRun[] = []
  private second = 0
  private inSecond = 0

  /** Whether a run that begins now is to be remembered whatever becomes of it. */
  isWanted(now: number): boolean {
    const second = Math.floor(now / 1000)
    if (second !== this.second) [this.second, this.inSecond] = [second, 0]
    return ++this.inSecond <= mostEachSecond
  }

  note(run: BridgeRun) {
    this.sound.push(run)
    if (this.sound.length > mostRuns) this.sound.shift()
  }

  noteFailure(run: BridgeRun) {
    const at = this.sound.indexOf(run)
    if (at >= 0) this.sound.splice(at, 1)
    this.failed.push(run)
    if (this.failed.length > mostFailures) this.failed.shift()
  }

  /** In the order in which they began. */
  all(): BridgeRun[] {
    return [...this.sound, ...this.failed].sort((a, b) => a.number - b.number)
  }
}
