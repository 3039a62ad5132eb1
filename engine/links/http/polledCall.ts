import type { Fault } from '#core/faults/catalogue'
import type { Handle } from '../../table/tagTable'
import type { SampleSink } from '../../table/intake'
import { Repeated } from '../repeated'
import type { Answer } from './caller'
import { failureOf, type CallFailure } from './caller'
import { qualityAfter, takeAnswer, type Target } from './targets'

interface Ways {
  /** Makes the call once it may go out. Rejects with a `CallFailure`. */
  make(etag: string | null): Promise<Answer>
  /** How long to wait after so many failures in a row, ms. */
  pauseAfter(failures: number): number
  usualInterval(): number
  table: SampleSink
  /** What became of it; null: it was answered. */
  told(failure: CallFailure | null, unfit: number, ms: number | null): void
}

/** A call that is made again and again for the tags that share it, as often as the quickest of them wants it. */
export class PolledCall {
  readonly targets = new Map<Handle, Target>()
  last: Answer | null = null
  fault: Fault | null = null
  private repeated: Repeated

  constructor(
    readonly text: string,
    private ways: Ways,
  ) {
    this.repeated = new Repeated({
      ask: (isOurs) => this.ask(isOurs),
      interval: () => this.interval(),
      pauseAfter: (failures) => ways.pauseAfter(failures),
    })
  }

  place(target: Target) {
    this.targets.set(target.point.handle, target)
    if (this.last && !this.fault) takeAnswer([target], this.text, this.last, this.ways.table)
    this.plan()
  }

  remove(handle: Handle) {
    this.targets.delete(handle)
  }

  plan() {
    this.repeated.plan()
  }

  /** Asks at once: something that it goes by is another. */
  again() {
    this.last = null
    this.fault = null
    this.repeated.again()
  }

  get nextTry() {
    return this.repeated.nextTry
  }

  tryNow() {
    this.repeated.tryNow()
  }

  close() {
    this.repeated.close()
  }

  private interval(): number | null {
    const usual = this.ways.usualInterval()
    return this.targets.size === 0 ? null : Math.min(...[...this.targets.values()].map(({ point }) => point.interval ?? usual))
  }

  private async ask(isOurs: () => boolean): Promise<boolean> {
    try {
      const answer = await this.ways.make(this.last?.etag ?? null)
      if (isOurs()) this.take(answer)
      return true
    } catch (error) {
      if (isOurs()) this.stumble(error)
      return false
    }
  }

  private take(answer: Answer) {
    // the same as before: what was told holds now, too
    const whole = answer.status === 304 && this.last ? { ...this.last, at: answer.at, ms: answer.ms } : answer
    this.last = whole
    this.fault = null
    const unfit = takeAnswer(this.targets.values(), this.text, whole, this.ways.table)
    this.ways.table.flush()
    this.ways.told(null, unfit, whole.ms)
  }

  private stumble(error: unknown) {
    const failure = failureOf(error)
    this.fault = failure.why
    const code = qualityAfter(failure.status, failure.why)
    for (const handle of this.targets.keys()) this.ways.table.degrade(handle, code, Date.now())
    this.ways.table.flush()
    this.ways.told(failure, 0, null)
  }
}
