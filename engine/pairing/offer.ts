import { randomBytes } from 'node:crypto'
import { fault, type Fault } from '#core/faults/catalogue'
import { pairingText, secretBytes, shortFingerprint } from '#core/pairing/code'
import type { CodeDraft, PairedThing, PairingOffer } from '#shared/pairing'
import type { CheckStep } from '#shared/status'
import type { Partner } from './partner'

/** So many wrong proofs end a code. */
const mostTries = 5
const mostSteps = 20

/** A code that was made here, as it is told: open for a while and for one use. */
export class Offer {
  readonly secret = Uint8Array.from(randomBytes(secretBytes))
  readonly madeAt = Date.now()
  private code: string
  private state: PairingOffer['state'] = 'open'
  private tries = 0
  private steps: CheckStep[] = []
  private partner: PairingOffer['partner'] = null
  private made: PairedThing | null = null
  private fault: Fault | null = null
  private timer: NodeJS.Timeout
  private over = new AbortController()

  constructor(
    readonly id: number,
    readonly draft: CodeDraft,
    readonly by: string,
    fingerprint: string,
    private told: (what: string) => void,
  ) {
    const { host, outsidePort, port, values } = draft
    this.code = pairingText({
      ...{ host, port: outsidePort ?? port, purpose: values, secret: this.secret },
      fingerprint: shortFingerprint(fingerprint),
    })
    this.timer = setTimeout(() => this.end('run-out'), draft.minutes * 60_000)
  }

  /** Aborts once nobody can come by it any more. */
  get signal(): AbortSignal {
    return this.over.signal
  }

  get isOpen() {
    return this.state === 'open' || this.state === 'pairing'
  }

  look(): PairingOffer {
    const { id, code, state, madeAt, by, tries, steps, partner, made, draft } = this
    const base = { id, state, madeAt, by, tries, steps, partner, made, values: draft.values, fault: this.fault }
    return { ...base, code: this.isOpen ? code : '', endsAt: madeAt + draft.minutes * 60_000 }
  }

  /** Somebody came with a wrong proof. */
  wrong(from: string) {
    this.tries++
    this.told(`A wrong proof came for a pairing code, from ${from}.`)
    if (this.tries >= mostTries) this.end('failed', fault('pairing.guessed', { tries: this.tries }, `the last from ${from}`))
  }

  /** Another attempt begins. */
  begin() {
    this.steps = []
    this.fault = null
  }

  step(step: CheckStep) {
    const at = this.steps.findIndex((known) => known.step === step.step)
    if (at >= 0) this.steps[at] = step
    else if (this.steps.length < mostSteps) this.steps.push(step)
    if (step.fault) this.fault = step.fault
  }

  /** Both sides proved themselves: nobody else comes by it. */
  found({ facts, fingerprint, from }: Partner) {
    this.partner = { name: facts.name, fingerprint, from }
    this.state = 'pairing'
    clearTimeout(this.timer)
  }

  /** It came to nothing after all; whoever knows the code may try again. */
  open(why: Fault) {
    if (this.state !== 'pairing') return
    this.state = 'open'
    this.fault = why
    const left = this.madeAt + this.draft.minutes * 60_000 - Date.now()
    this.timer = setTimeout(() => this.end('run-out'), Math.max(0, left))
  }

  done(made: PairedThing) {
    this.made = made
    this.fault = null
    this.end('done')
  }

  end(state: 'done' | 'withdrawn' | 'run-out' | 'failed', why: Fault | null = this.fault) {
    if (!this.isOpen) return
    this.state = state
    this.fault = why
    clearTimeout(this.timer)
    this.over.abort()
    if (state === 'run-out') this.told('A pairing code ran out; nobody came by it.')
    if (state === 'failed' && why) this.told(why.what)
  }
}
