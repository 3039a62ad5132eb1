import { fault, type Fault } from '#core/faults/catalogue'
import { stationText } from '#core/bacnet/frames'
import type { BacnetSettings } from '#core/bacnet/settings'
import { Backoff } from '#pacing/backoff'
import { steadyNow } from '#pacing/clock'
import { asFault } from './port'
import type { BacnetPort, Outcome, PortUser } from './port'
import { outcomeFault, patienceOf } from './asking'
import type { Directory, Located } from './directory'
import type { Meters } from '#core/statistics/meters'

export interface LaneEvents {
  found(): void
  lost(why: Fault): void
}

interface Job {
  service: number
  content: Buffer
  /** Unix milliseconds after which it must not be sent any more. */
  until: number
  settle(outcome: Outcome): void
}

const silentUntilLost = 3

/** One device: where it is, whether it answers, and what is asked of it, so many at a time and writes first. */
export class Lane {
  located: Located | null = null
  /** Why it is not there; null: it is, or it is being looked for the first time. */
  fault: Fault | null = null
  answerMs: number | null = null
  requests = 0
  failures = 0
  silentInARow = 0
  /** When anything came from it last. */
  heardAt = 0
  private writes: Job[] = []
  private reads: Job[] = []
  private underWay = 0
  private backoff: Backoff
  private timer: NodeJS.Timeout | null = null
  private closed = false

  constructor(
    readonly instance: number,
    private settings: BacnetSettings,
    private around: { port: BacnetPort; user: PortUser; directory: Directory; meters: Meters },
    private events: LaneEvents,
  ) {
    this.backoff = new Backoff(settings.patience.retryFirst, settings.patience.retryMost)
    // devices that are looked for at once do not answer at once
    this.timer = setTimeout(() => void this.find(), Math.random() * 50)
  }

  adjust(settings: BacnetSettings) {
    this.settings = settings
    this.backoff = new Backoff(settings.patience.retryFirst, settings.patience.retryMost)
  }

  read(service: number, content: Buffer): Promise<Outcome> {
    return this.enqueue(this.reads, service, content, Infinity)
  }

  /** @param until Unix milliseconds: what has not left by then does not leave. */
  write(service: number, content: Buffer, until: number): Promise<Outcome> {
    return this.enqueue(this.writes, service, content, until)
  }

  /** Where it is may have changed: it is looked for anew. */
  lookAgain(why: Fault) {
    if (!this.located || this.closed) return
    this.located = null
    this.fault = why
    this.failAll('the device is looked for anew')
    this.around.directory.forget(this.instance)
    this.events.lost(why)
    this.findSoon()
  }

  close() {
    this.closed = true
    if (this.timer) clearTimeout(this.timer)
    this.failAll('the link was closed')
  }

  private enqueue(queue: Job[], service: number, content: Buffer, until: number): Promise<Outcome> {
    return new Promise((settle) => {
      if (!this.located) return settle({ kind: 'closed', problem: this.fault?.what ?? 'the device is looked for' })
      queue.push({ service, content, until, settle })
      this.pump()
    })
  }

  private pump() {
    while (this.located && this.underWay < this.settings.requests.parallel) {
      const job = this.writes.shift() ?? this.reads.shift()
      if (!job) return
      if (steadyNow() > job.until) job.settle({ kind: 'expired' })
      else void this.run(job, this.located)
    }
  }

  private async run({ service, content, settle, until }: Job, { station }: Located) {
    this.underWay++
    const { port, user } = this.around
    // a write that was not answered may have been taken: it is not sent again
    const repeats = until === Infinity ? this.settings.patience.repeats : 0
    const outcome = await port.request(user, station, { service, content, ...patienceOf(this.settings), repeats })
    this.underWay--
    this.requests++
    this.note(outcome)
    settle(outcome)
    this.pump()
  }

  private measure(outcome: Outcome) {
    const { meters } = this.around
    const part = String(this.instance)
    if (outcome.kind === 'done') meters.answered(part, outcome.ms)
    else if (outcome.kind === 'silent') meters.failed(part, 'bacnet.silent', null, outcome.ms)
    else if (outcome.kind !== 'expired') meters.failed(part, `bacnet.${outcome.kind}`, 'ms' in outcome ? outcome.ms : null)
  }

  private note(outcome: Outcome) {
    this.measure(outcome)
    if (outcome.kind === 'silent' || outcome.kind === 'closed' || outcome.kind === 'unrouted') {
      this.failures++
      this.silentInARow++
      if (this.silentInARow >= silentUntilLost && this.located) this.lookAgain(this.lossFault(outcome))
      return
    }
    this.heardAt = steadyNow()
    this.silentInARow = 0
    if (outcome.kind !== 'done' && outcome.kind !== 'error') this.failures++
    if ('ms' in outcome) this.answerMs = this.answerMs === null ? outcome.ms : this.answerMs * 0.8 + outcome.ms * 0.2
  }

  private lossFault(outcome: Outcome): Fault {
    const { station } = this.located!
    if (outcome.kind !== 'silent') return outcomeFault(outcome, { device: String(this.instance), station, what: 'it' })!
    const { answer: ms } = this.settings.patience
    const facts = { device: String(this.instance), place: stationText(station), ms, tries: this.silentInARow }
    return fault('bacnet.silent', facts, outcome.stray)
  }

  /** When it is looked for again; null: it does not wait for that. */
  get nextTry(): number | null {
    return this.timer ? this.backoff.nextTry : null
  }

  /** Looks for it at once, where it is lost. */
  tryNow() {
    if (!this.timer) return
    clearTimeout(this.timer)
    void this.find()
  }

  private async find() {
    this.timer = null
    try {
      const located = await this.around.directory.locate(this.instance)
      if (this.closed) return
      this.located = located
      this.fault = null
      this.silentInARow = 0
      this.heardAt = steadyNow()
      this.backoff.reset()
      this.events.found()
      this.pump()
    } catch (why) {
      if (this.closed) return
      const isNew = this.fault?.what !== asFault(why).what
      this.fault = asFault(why)
      if (isNew) this.events.lost(this.fault)
      this.findSoon()
    }
  }

  private findSoon() {
    if (this.timer) clearTimeout(this.timer)
    this.timer = setTimeout(() => void this.find(), this.backoff.next())
  }

  private failAll(problem: string) {
    for (const { settle } of [...this.writes.splice(0), ...this.reads.splice(0)]) settle({ kind: 'closed', problem })
  }
}
