import type { BridgeRun } from '#shared/bridges/status'

const mostRuns = 300
const mostFailures = 300
/** Of more than so many a second, some are remembered. */
const mostEachSecond = 10

/** Of more than so many a second at all bridges together. */
const mostOfAll = 2000

/** What is remembered each second, of one bridge or of all. */
export class Share {
  private second = 0
  private count = 0

  constructor(private most: number) {}

  take(now: number): boolean {
    const second = Math.floor(now / 1000)
    if (second !== this.second) [this.second, this.count] = [second, 0]
    return ++this.count <= this.most
  }
}

export const shareOfAll = () => new Share(mostOfAll)

/** The last runs of a bridge: every one that failed, and of the others as many as can be looked at. */
export class RunBook {
  private sound: BridgeRun[] = []
  private failed: BridgeRun[] = []
  private own = new Share(mostEachSecond)

  /** @param all what is left for all bridges together */
  constructor(private shared: Share) {}

  /** Whether a run that begins now is to be remembered whatever becomes of it. */
  isWanted(now: number): boolean {
    return this.own.take(now) && this.shared.take(now)
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
