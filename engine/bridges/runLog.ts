import type { Fault } from '#core/faults/catalogue'
import type { Shaped } from '#core/bridges/parcel'
import type { RunFacts } from '#core/bridges/run'
import type { BridgeRun } from '#shared/bridges/status'
import type { Offered } from './delivery'
import { RunBook, type Share } from './runBook'
import { inputText, outcomeOf, recordText, worstOutcome } from './runWords'
import { occasionText } from './triggering'

/** Of a run that makes many rows, so many are told one by one, and the others together. */
const mostTold = 20

type Sent = BridgeRun['sent'][number]

/** What is remembered of the runs of one bridge, and of what became of each record. */
export class RunLog {
  private book: RunBook

  /** @param inputs their names, in their order */
  constructor(
    private inputs: () => readonly string[],
    shared: Share,
  ) {
    this.book = new RunBook(shared)
  }

  all(): BridgeRun[] {
    return this.book.all()
  }

  /** A run begins. Null: there are too many for each to be remembered. */
  begins(facts: RunFacts): BridgeRun | null {
    if (!this.book.isWanted(facts.now)) return null
    const run = this.runOf(facts)
    this.book.note(run)
    return run
  }

  skipped(facts: RunFacts, why: Fault) {
    this.book.noteFailure({ ...this.runOf(facts), outcome: 'skipped', fault: why })
  }

  /** Nothing came of it for a destination. */
  failed(run: BridgeRun | RunFacts, number: number, why: Fault): BridgeRun {
    const noted = 'sent' in run ? run : this.runOf(run)
    if (noted.sent.length < mostTold) noted.sent.push({ number, text: '', outcome: 'failed', ms: null, fault: why })
    noted.outcome = 'failed'
    noted.fault = why
    this.book.noteFailure(noted)
    return noted
  }

  /** There was nothing to be sent. */
  empty(run: BridgeRun) {
    run.outcome = 'sent'
    run.ms = run.shapeMs
  }

  /** Tells the run what becomes of a record of it. */
  follow(run: BridgeRun, number: number, fields: readonly string[], record: Shaped): Offered['told'] {
    const began = performance.now()
    const sent = this.entryFor(run, number, () => recordText(fields, record))
    return (verdict) => {
      const outcome = outcomeOf(verdict)
      sent.ms = Math.max(sent.ms ?? 0, performance.now() - began)
      sent.outcome = sent.outcome === 'under way' ? outcome : worstOutcome([sent.outcome, outcome])
      if (typeof verdict === 'object' && verdict !== null) sent.fault = verdict
      this.judge(run, sent)
    }
  }

  private entryFor(run: BridgeRun, number: number, text: () => string): Sent {
    const last = run.sent.at(-1)
    if (run.sent.length < mostTold || !last) {
      const sent: Sent = { number, text: text(), outcome: 'under way', ms: null, fault: null }
      run.sent.push(sent)
      return sent
    }
    last.text = 'and all other rows'
    return last
  }

  private judge(run: BridgeRun, sent: Sent) {
    if (run.outcome === 'failed') return
    run.outcome = worstOutcome(run.sent.map(({ outcome }) => outcome))
    run.ms = run.shapeMs + Math.max(...run.sent.map(({ ms }) => ms ?? 0))
    if (sent.fault) run.fault = sent.fault
    if (sent.outcome === 'refused' || sent.outcome === 'dropped') this.book.noteFailure(run)
  }

  private runOf({ occasion, now, number, inputs }: RunFacts): BridgeRun {
    const names = this.inputs()
    return {
      ...{ number, at: now, by: occasionText(occasion), outcome: 'under way', ms: null, shapeMs: 0, sent: [], fault: null },
      inputs: inputs.map((input, i) => inputText(names[i] ?? '', input)),
    }
  }
}
