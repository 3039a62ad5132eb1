import { fault, type Fault } from '#core/faults/catalogue'
import type { RunFacts } from '#core/bridges/run'
import { steadyNow } from '#pacing/clock'
import type { Fetched, Inputs } from './inputs'

const lookAgainMs = 20
/** Somebody else is asked less often. */
const askAgainMs = 500
/** Runs that wait for an input, at most; what comes then is skipped. */
const mostWaiting = 1000
/** What comes with somebody who waits until it is kept comes no faster than it is taken. */
const mostHeldUp = 20_000

interface Ways {
  inputs(): Inputs
  /** Whether the bridge is still on. */
  isOn(): boolean
  run(facts: RunFacts, waited: number, fetched: Fetched): void
  skip(facts: RunFacts, why: Fault): void
}

/** Runs of a bridge that ask somebody or may wait for an input: one after the other. */
export class RunLine {
  private waiting = 0
  private line: Promise<void> = Promise.resolve()

  constructor(private ways: Ways) {}

  push(facts: RunFacts) {
    if (this.waiting >= (facts.occasion.settled ? mostHeldUp : mostWaiting))
      return this.ways.skip(facts, fault('bridge.no-input', { input: 'all', problem: 'too many runs wait already' }))
    this.waiting++
    this.line = this.line.then(() => this.runPatiently(facts)).finally(() => this.waiting--)
  }

  private async runPatiently(facts: RunFacts) {
    const began = steadyNow()
    const inputs = this.ways.inputs()
    for (;;) {
      const fetched = await inputs.fetch(facts)
      const waited = steadyNow() - began
      const gathered = inputs.gather(facts.occasion, waited, fetched)
      if (gathered.ok || !gathered.mayCome || !this.ways.isOn()) return this.ways.run({ ...facts, now: Date.now() }, waited, fetched)
      await new Promise((resolve) => setTimeout(resolve, inputs.asks ? askAgainMs : lookAgainMs))
    }
  }
}
