import { fault, type Fault } from '#core/faults/catalogue'
import { shapersOf, ShapeProblem, type Shaper } from '#core/bridges/compiled'
import type { Shaped } from '#core/bridges/parcel'
import { nothingBut, type Occasion, type RunFacts } from '#core/bridges/run'
import type { Destination } from '#core/bridges/settings'
import { DecayingRate } from '#core/messages/decayingRate'
import { counted } from '#core/text/counted'
import type { Bridge } from '#shared/bridges/bridge'
import type { BridgeRun, BridgeStatus } from '#shared/bridges/status'
import type { RefusedRecord } from '#shared/bridges/preview'
import type { JournalWriter } from '../journal/journal'
import type { TagTable } from '../table/tagTable'
import { Delivery, type Offered } from './delivery'
import { Gathering } from './gathering'
import { Inputs } from './inputs'
import { tagPlace, topicPlace } from './laps'
import { refusedRecordOf } from './refused'
import { RunNumbers } from './runNumbers'
import { RunBook } from './runBook'
import { inputText, outcomeOf, recordText, worstOutcome } from './runWords'
import type { Spool } from './spool'
import { targetOf } from './targets/registry'
import type { Surroundings } from './targets/target'
import { occasionText, startTriggers, type TriggerAround } from './triggering'

export interface BridgeAround extends Surroundings, TriggerAround {
  table: TagTable
  journal: JournalWriter
  spool: Spool
}

const lookAgainMs = 20
const mostEarly = 10_000
/** Runs that wait for an input, at most; what comes then is skipped. */
const mostWaiting = 1000

/**
 * One bridge of the configuration. What sets it off makes a run: inputs are taken, records shaped, and handed to the way
 * to each destination, which is its own. A change touches only what it is about: what is kept stays in its place.
 */
export class BridgeRunner {
  private deliveries = new Map<number, Delivery>()
  private shapers: Shaper[] = []
  private inputs: Inputs
  private runs = new RunBook()
  private stopTriggers: (() => void) | null = null
  /** What set it off before its ways were open; null: they are. */
  private early: Occasion[] | null = null
  private gathering: Gathering | null = null
  private since: number | null = null
  private ending: Promise<unknown> = Promise.resolve()
  private opened = 0
  private numbers: RunNumbers
  private rate = new DecayingRate()
  private counts = { runs: 0, skipped: 0, failed: 0, lost: 0 }
  /** The last message that set it off. */
  lastMessage: Occasion | null = null
  private lastFault: { fault: Fault; at: number } | null = null
  /** It set itself off without end, and was stopped. */
  private halted: Fault | null = null
  private waitingRuns = 0
  private line: Promise<void> = Promise.resolve()

  constructor(
    private bridge: Bridge,
    private around: BridgeAround,
  ) {
    this.inputs = new Inputs(bridge.take, around)
    this.numbers = new RunNumbers(around.spool, bridge.id)
  }

  get name() {
    return this.bridge.name
  }

  /** Throws where it cannot come into force. */
  start() {
    this.prepare()
    if (this.bridge.on) this.open()
  }

  /** Throws where the change cannot come into force; then nothing of it runs. */
  update(bridge: Bridge) {
    const before = this.bridge
    this.bridge = bridge
    try {
      this.prepare()
    } catch (error) {
      this.shut()
      throw error
    }
    if (!bridge.on) return before.on ? this.shut() : undefined
    if (this.since === null) return this.open()
    this.stopTriggers?.()
    this.listen()
    void this.openDeliveries(this.opened).then(() => this.runEarly(this.opened))
  }

  /** Whether it looks out for what sets it off. */
  get isListening() {
    return this.stopTriggers !== null && this.early === null
  }

  /** Runs once, now; null: it is off. */
  runByHand(): number | null {
    if (this.since === null) return null
    return this.fire(nothingBut('hand', null, Date.now()))
  }

  tryNow() {
    for (const delivery of this.deliveries.values()) delivery.tryNow()
  }

  /** What receivers refused for good, the oldest first. */
  async refused(): Promise<RefusedRecord[]> {
    const all = await Promise.all(
      [...this.deliveries].map(async ([number, delivery]) => (await delivery.refused()).map((one) => refusedRecordOf(number, one))),
    )
    return all.flat().sort((a, b) => a.at - b.at)
  }

  /** Sends refused records once more, or drops them; returns how many there were. */
  async settleRefused(keys: readonly string[], then: 'send' | 'drop'): Promise<number> {
    const settled = await Promise.all([...this.deliveries.values()].map((delivery) => delivery.settleRefused(keys, then)))
    return settled.reduce((total, count) => total + count, 0)
  }

  lookedAt(): BridgeRun[] {
    return this.runs.all()
  }

  /** Never throws. */
  status(): BridgeStatus {
    const { id } = this.bridge
    const destinations = [...this.deliveries.values()].map((delivery) => delivery.status())
    const { runs, skipped, failed } = this.counts
    const shared = { id, since: this.since, runs, skipped, failed, perSecond: this.rate.perSecond(performance.now()), destinations }
    if (this.since === null) return { ...shared, flow: 'off', sentence: 'Switched off', fault: null }
    return { ...shared, ...this.condition(destinations) }
  }

  /** The bridge is gone, and with it what is kept for it. */
  async remove() {
    await this.close()
    this.around.laps.forget(this.bridge.id)
    await this.around.spool.forget(this.bridge.id).catch(() => {})
  }

  async close() {
    this.shut()
    await this.ending
  }

  private prepare() {
    for (const trigger of this.bridge.when) {
      if (trigger.kind === 'message' && !this.around.link(trigger.linkId))
        throw new Error(`the link that messages are to come over is not there`)
      if (trigger.kind === 'client' && !this.around.outlet(trigger.outletId))
        throw new Error(`the outlet that clients are to send to is not there`)
    }
    this.shapers = shapersOf(this.bridge)
    this.inputs = new Inputs(this.bridge.take, this.around)
    this.gathering?.close()
    this.gathering = this.bridge.gather && new Gathering(this.bridge.gather, (offers) => this.handOver(offers))
  }

  private open() {
    const opened = ++this.opened
    this.since = Date.now()
    this.counts = { runs: 0, skipped: 0, failed: 0, lost: 0 }
    this.lastFault = null
    void this.ending
      .then(() => this.numbers.load().catch((error: Error) => this.noteSpool(error)))
      .then(() => this.openDeliveries(opened))
      .then(() => this.runEarly(opened))
    this.listen()
  }

  private shut() {
    this.opened++
    this.since = null
    this.stopTriggers?.()
    this.stopTriggers = null
    this.gathering?.close()
    for (const { settled } of this.early ?? []) settled?.()
    this.early = null
    const open = [...this.deliveries.values()]
    this.deliveries.clear()
    this.ending = Promise.all([this.ending, ...open.map((delivery) => delivery.close())])
  }

  /** Ways to destinations that stay go on as they are; what is kept for those that went is given up. */
  private async openDeliveries(opened: number) {
    for (const destination of this.bridge.send) {
      const known = this.deliveries.get(destination.number)
      if (known) known.update(this.partsFor(destination))
      else await this.openDelivery(destination, opened)
    }
    const numbers = new Set(this.bridge.send.map(({ number }) => number))
    for (const [number, delivery] of this.deliveries) {
      if (numbers.has(number)) continue
      this.deliveries.delete(number)
      const gone = delivery.close().then(() => this.around.spool.forget(this.bridge.id, number))
      this.ending = Promise.all([this.ending, gone.catch(() => {})])
    }
  }

  private async openDelivery(destination: Destination, opened: number) {
    const queue = this.around.spool.queue(this.bridge.id, destination.number)
    await queue.load().catch((error: Error) => this.noteSpool(error))
    if (opened !== this.opened) return
    this.deliveries.set(destination.number, new Delivery({ ...this.partsFor(destination), queue, journal: this.around.journal }))
  }

  private partsFor(destination: Destination) {
    const { number, kind, away } = destination
    const fields = destination.fields.map(({ into }) => into)
    return { number, kind, away, fields, name: this.name, target: targetOf(destination, this.around, this.bridge) }
  }

  /** From here on nothing is missed: what sets it off before its ways are open waits for that. */
  private listen() {
    this.early ??= []
    this.halted = null
    this.stopTriggers = startTriggers(this.bridge.when, this.around, {
      fire: (occasion) => this.fire(occasion),
      lost: (count) => this.noteLost(count),
    })
  }

  private noteSpool(error: Error) {
    const why = fault('bridge.spool', { problem: error.message })
    this.around.journal.trouble(this.name, why.what, why)
  }

  private noteLost(count: number) {
    if (this.counts.lost === 0) this.around.journal.caution(this.name, 'More samples came than could be looked at; some set nothing off.')
    this.counts.lost += count
  }

  private runEarly(opened: number) {
    if (opened !== this.opened) return
    const early = this.early ?? []
    this.early = null
    for (const occasion of early) this.fire(occasion)
  }

  private waitForWays(early: Occasion[], occasion: Occasion) {
    if (early.length < mostEarly) return void early.push(occasion)
    occasion.settled?.()
    this.noteLost(1)
  }

  /** Returns the number of the run; null: it waits until the ways of the bridge are open. */
  private fire(occasion: Occasion): number | null {
    if (this.early) {
      this.waitForWays(this.early, occasion)
      return null
    }
    if (this.around.laps.begins(this.bridge.id, this.placeOf(occasion))) return this.halt(occasion)
    this.rate.count(performance.now())
    this.counts.runs++
    const number = this.numbers.take()
    if (occasion.by === 'message') this.lastMessage = occasion
    if (this.inputs.longestWait === 0) this.runNow(occasion, number, 0)
    else this.waitInLine(occasion, number)
    return number
  }

  /** The tag or topic that set it off. */
  private placeOf({ by, path, topic, trigger }: Occasion): string | null {
    if (by === 'tag') return tagPlace(path)
    const set = trigger === null ? undefined : this.bridge.when[trigger]
    return set?.kind === 'message' ? topicPlace(set.linkId, topic) : null
  }

  /** It will not come to rest by itself. */
  private halt(occasion: Occasion): null {
    occasion.settled?.()
    if (this.halted) return null
    this.halted = fault('bridge.loop', { name: this.name, by: occasion.by === 'tag' ? occasion.path : occasion.topic })
    this.around.journal.trouble(this.name, this.halted.what, this.halted)
    this.stopTriggers?.()
    this.stopTriggers = null
    return null
  }

  private waitInLine(occasion: Occasion, number: number) {
    if (this.waitingRuns >= mostWaiting)
      return this.skip(occasion, number, fault('bridge.no-input', { input: 'all', problem: 'too many runs wait already' }))
    this.waitingRuns++
    this.line = this.line.then(() => this.runPatiently(occasion, number)).finally(() => this.waitingRuns--)
  }

  private async runPatiently(occasion: Occasion, number: number) {
    const began = Date.now()
    for (;;) {
      const waited = Date.now() - began
      const gathered = this.inputs.gather(occasion, waited)
      if (gathered.ok || !gathered.mayCome || this.since === null) return this.runNow(occasion, number, waited)
      await new Promise((resolve) => setTimeout(resolve, lookAgainMs))
    }
  }

  private runNow(occasion: Occasion, number: number, waited: number) {
    const now = Date.now()
    const began = performance.now()
    const gathered = this.inputs.gather(occasion, waited)
    if (!gathered.ok) return this.skip(occasion, number, gathered.fault)
    const facts: RunFacts = { occasion, now, number, inputs: gathered.inputs }
    const noted = this.runs.isWanted(now) ? this.noted(facts) : null
    const offers = this.shapers.map((shaper) => this.shape(shaper, facts, noted))
    if (noted) noted.shapeMs = performance.now() - began
    const ready = offers.filter((offer) => offer !== null)
    if (occasion.settled) settleWith(ready, occasion.settled)
    if (this.gathering) this.gathering.add(ready)
    else this.handOver(ready)
  }

  private handOver(offers: readonly Offer[]) {
    if (offers.length === 1) return this.offer(offers[0]!.number, [offers[0]!.record])
    const byNumber = new Map<number, Offered[]>()
    for (const { number, record } of offers) {
      const its = byNumber.get(number)
      if (its) its.push(record)
      else byNumber.set(number, [record])
    }
    for (const [number, records] of byNumber) this.offer(number, records)
  }

  private offer(number: number, records: readonly Offered[]) {
    const delivery = this.deliveries.get(number)
    if (delivery) delivery.offer(records)
    else for (const { stored } of records) stored?.()
  }

  private shape(shaper: Shaper, facts: RunFacts, noted: BridgeRun | null): Offer | null {
    try {
      const record = shaper.shape(facts)
      return { number: shaper.number, record: noted ? { ...record, told: this.follow(noted, shaper, record) } : record }
    } catch (error) {
      const field = error instanceof ShapeProblem ? error.field : `destination ${shaper.number}`
      this.fail(noted ?? this.runOf(facts), shaper.number, fault('bridge.field', { field, problem: (error as Error).message }))
      return null
    }
  }

  private fail(run: BridgeRun, number: number, why: Fault) {
    this.counts.failed++
    this.lastFault = { fault: why, at: Date.now() }
    run.sent.push({ number, text: '', outcome: 'failed', ms: null, fault: why })
    run.outcome = 'failed'
    run.fault = why
    this.runs.noteFailure(run)
  }

  private skip(occasion: Occasion, number: number, why: Fault) {
    this.counts.skipped++
    occasion.settled?.()
    this.lastFault = { fault: why, at: Date.now() }
    const run = this.runOf({ occasion, now: Date.now(), number, inputs: [] })
    this.runs.noteFailure({ ...run, outcome: 'skipped', fault: why })
  }

  private noted(facts: RunFacts): BridgeRun {
    const run = this.runOf(facts)
    this.runs.note(run)
    return run
  }

  private runOf({ occasion, now, number, inputs }: RunFacts): BridgeRun {
    return {
      ...{ number, at: now, by: occasionText(occasion), outcome: 'under way', ms: null, shapeMs: 0, sent: [], fault: null },
      inputs: inputs.map((input, i) => inputText(this.bridge.take[i]?.name ?? '', input)),
    }
  }

  /** Tells the run what becomes of what it sent. */
  private follow(run: BridgeRun, { number, fields }: Shaper, record: Shaped): Offered['told'] {
    const sent: BridgeRun['sent'][number] = { number, text: recordText(fields, record), outcome: 'under way', ms: null, fault: null }
    run.sent.push(sent)
    const began = performance.now()
    return (verdict) => {
      sent.ms = performance.now() - began
      sent.outcome = outcomeOf(verdict)
      if (typeof verdict === 'object') sent.fault = verdict
      if (run.outcome === 'failed') return
      run.outcome = worstOutcome(run.sent.map(({ outcome }) => outcome))
      run.ms = run.shapeMs + Math.max(...run.sent.map(({ ms }) => ms ?? 0))
      if (sent.fault) run.fault = sent.fault
      if (sent.outcome === 'refused' || sent.outcome === 'dropped') this.runs.noteFailure(run)
    }
  }

  private vainText(): string {
    const { runs, skipped, failed } = this.counts
    return `${(skipped + failed).toLocaleString('en-GB')} of ${counted(runs, 'run')} came to nothing`
  }

  private condition(destinations: BridgeStatus['destinations']): Pick<BridgeStatus, 'flow' | 'sentence' | 'fault'> {
    if (this.halted) return { flow: 'broken', sentence: this.halted.what, fault: this.halted }
    const away = destinations.find((one) => one.fault !== null)
    const kept = destinations.reduce((total, one) => total + one.kept, 0)
    if (away?.fault) {
      const holding = kept > 0 ? ` · ${counted(kept, 'record')} kept` : ''
      return {
        flow: destinations.every((one) => one.fault) ? 'broken' : 'late',
        sentence: `${away.fault.what}${holding}`,
        fault: away.fault,
      }
    }
    const { lastFault } = this
    if (lastFault && Date.now() - lastFault.at < recentMs)
      return { flow: 'late', sentence: `${lastFault.fault.what} · ${this.vainText()}`, fault: lastFault.fault }
    const refused = destinations.reduce((total, one) => total + one.refused, 0)
    if (refused > 0) return { flow: 'late', sentence: `${counted(refused, 'record')} refused and laid aside`, fault: null }
    return {
      flow: 'flowing',
      sentence: this.counts.runs === 0 ? 'Waiting for what sets it off' : counted(this.counts.runs, 'run'),
      fault: null,
    }
  }
}

/** So long a run for want of something is what is happening. */
const recentMs = 30_000

export interface Offer {
  number: number
  record: Offered
}

/** Told once the last of them is kept. */
const settleWith = (offers: readonly Offer[], settled: () => void) => {
  let left = offers.length
  if (left === 0) return settled()
  for (const { record } of offers)
    record.stored = () => {
      if (--left === 0) settled()
    }
}
