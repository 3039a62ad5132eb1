import { fault, type Fault } from '#core/faults/catalogue'
import { shapersOf, ShapeProblem, type Shaper } from '#core/bridges/compiled'
import { listedInput, rowsOf } from '#core/bridges/each'
import type { Parcel } from '#core/bridges/parcel'
import { nothingBut, type Occasion, type RunFacts } from '#core/bridges/run'
import type { Destination } from '#core/bridges/settings'
import { Meters } from '#core/statistics/meters'
import { DecayingRate } from '#core/messages/decayingRate'
import type { Bridge } from '#shared/bridges/bridge'
import type { BridgeRun, BridgeStatus } from '#shared/bridges/status'
import type { BridgeStatistics } from '#shared/statistics'
import type { JournalWriter } from '../journal/journal'
import type { TagTable } from '../table/tagTable'
import { Aside, type Asides } from './aside'
import { conditionOf } from './condition'
import { Delivery, type Offered } from './delivery'
import { Gathering } from './gathering'
import { followOffers, letGo } from './endings'
import { Inputs, type Fetched } from './inputs'
import { filePlace, tagPlace, topicPlace } from './laps'
import { RunNumbers } from './runNumbers'
import type { Share } from './runBook'
import { RunLine } from './runLine'
import { RunLog } from './runLog'
import type { LeftBy, Spool } from './spool'
import { targetOf } from './targets/registry'
import { thrown, type Surroundings } from './targets/target'
import { startTriggers, type TriggerAround } from './triggering'

export interface BridgeAround extends Surroundings, TriggerAround {
  table: TagTable
  journal: JournalWriter
  spool: Spool
  /** How many runs are remembered at all bridges together. */
  remembered: Share
  /** The name of the site. */
  site(): string
}

const mostEarly = 10_000

/**
 * One bridge of the configuration. What sets it off makes a run: inputs are taken, records shaped, and handed to the way
 * to each destination, which is its own. A change touches only what it is about: what is kept stays in its place.
 */
export class BridgeRunner {
  private deliveries = new Map<number, Delivery>()
  private shapers: Shaper[] = []
  private inputs: Inputs
  /** Which of the inputs makes rows; −1: none. */
  private listed = -1
  private log: RunLog
  /** What it reads from cannot be read. */
  private sourceFault: Fault | null = null
  private stopTriggers: (() => void) | null = null
  /** What set it off before its ways were open; null: they are. */
  private early: Occasion[] | null = null
  private gathering: Gathering | null = null
  private since: number | null = null
  private ending: Promise<unknown> = Promise.resolve()
  /** Ends when its ways are open. */
  private opening: Promise<void> = Promise.resolve()
  private opened = 0
  private numbers: RunNumbers
  private rate = new DecayingRate()
  private counts = { runs: 0, skipped: 0, failed: 0, lost: 0 }
  /** What its receivers took, batch by batch; it outlives changes. */
  readonly meters = new Meters()
  /** The last message that set it off. */
  lastMessage: Occasion | null = null
  private lastFault: { fault: Fault; at: number } | null = null
  /** It set itself off without end, and was stopped. */
  private halted: Fault | null = null
  private line = new RunLine({
    inputs: () => this.inputs,
    isOn: () => this.since !== null,
    run: (facts, waited, fetched) => this.runNow(facts, waited, fetched),
    skip: (facts, why) => this.skip(facts, why),
  })

  constructor(
    private bridge: Bridge,
    private around: BridgeAround,
  ) {
    this.inputs = new Inputs(bridge, around)
    this.numbers = new RunNumbers(around.spool, bridge.id)
    this.log = new RunLog(() => this.bridge.take.map(({ name }) => name), around.remembered)
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
    this.opening = this.openDeliveries(this.opened).then(() => this.runEarly(this.opened))
  }

  /** Whether it looks out for what sets it off. */
  get isListening() {
    return this.stopTriggers !== null && this.early === null
  }

  /** Runs once, as soon as its ways are open; null: it is off. */
  async runByHand(): Promise<number | null> {
    await this.opening
    if (this.since === null) return null
    return this.fire(nothingBut('hand', null, Date.now()))
  }

  tryNow() {
    for (const delivery of this.deliveries.values()) delivery.tryNow()
  }

  /** Does something with what receivers refused for good. While the bridge is off it can be looked at and dropped, not sent. */
  laidAside<T>(work: (asides: Asides) => Promise<T>): Promise<T> {
    if (this.since !== null) return work(new Map([...this.deliveries].map(([number, { aside }]) => [number, aside])))
    const done = this.ending.then(() => this.asidesWhileOff()).then(work)
    // it is not switched on before
    this.ending = done.catch(() => {})
    return done
  }

  private async asidesWhileOff(): Promise<Asides> {
    const isOff = fault('bridge.off', { name: this.name })
    const asides = new Map<number, Aside>()
    for (const { number, fields } of this.bridge.send) {
      const queue = this.around.spool.queue(this.bridge.id, number)
      await queue.load()
      const names = fields.map(({ into }) => into)
      asides.set(number, new Aside(queue, { fields: () => names, send: () => Promise.reject(thrown(isOff)) }))
    }
    return asides
  }

  lookedAt(): BridgeRun[] {
    return this.log.all()
  }

  get flow() {
    return this.status().flow
  }

  statistics(): BridgeStatistics {
    const { id, name } = this.bridge
    const { whole, parts } = this.meters.told(Date.now())
    return { id, name, whole, parts: parts.map(([part, measured]) => ({ name: part, measured })) }
  }

  /** Never throws. */
  status(): BridgeStatus {
    const { id } = this.bridge
    const destinations = [...this.deliveries.values()].map((delivery) => delivery.status())
    const { runs, skipped, failed } = this.counts
    const shared = { id, since: this.since, runs, skipped, failed, perSecond: this.rate.perSecond(performance.now()), destinations }
    if (this.since === null) return { ...shared, flow: 'off', sentence: 'Switched off', fault: null }
    const { halted, sourceFault: source, lastFault, counts } = this
    return { ...shared, ...conditionOf({ halted, source, lastFault, counts, destinations }) }
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
      if (trigger.kind === 'file' && !this.around.link(trigger.linkId)) throw new Error('the link that files are to come from is not there')
      if (trigger.kind === 'client' && !this.around.outlet(trigger.outletId))
        throw new Error(`the outlet that clients are to send to is not there`)
    }
    this.shapers = shapersOf(this.bridge)
    this.inputs = new Inputs(this.bridge, this.around)
    this.listed = listedInput(this.bridge.take)
    this.gathering?.close()
    this.gathering = this.bridge.gather && new Gathering(this.bridge.gather, (offers) => this.handOver(offers))
  }

  private open() {
    const opened = ++this.opened
    this.since = Date.now()
    this.counts = { runs: 0, skipped: 0, failed: 0, lost: 0 }
    this.lastFault = null
    this.opening = this.ending
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
    for (const occasion of this.early ?? []) letGo(occasion, fault('bridge.off', { name: this.name }))
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
    this.deliveries.set(
      destination.number,
      new Delivery({ ...this.partsFor(destination), queue, journal: this.around.journal, meters: this.meters }),
    )
  }

  private partsFor(destination: Destination) {
    const { number, kind, away } = destination
    const fields = destination.fields.map(({ into }) => into)
    return { number, kind, away, fields, name: this.name, target: targetOf(destination, this.around, this.bridge) }
  }

  /** What another machine kept for a destination while it led. @returns false where it cannot be taken now */
  async takeLeft(destination: number, parcel: Parcel, left: LeftBy): Promise<boolean> {
    // a destination that is no more has its records given up, here as there
    if (!this.bridge.send.some(({ number }) => number === destination)) return true
    return (await this.deliveries.get(destination)?.takeLeft(parcel, left)) ?? false
  }

  /** From here on nothing is missed: what sets it off before its ways are open waits for that. */
  private listen() {
    this.early ??= []
    this.halted = null
    this.sourceFault = null
    this.stopTriggers = startTriggers(this.bridge, this.around, {
      fire: (occasion) => this.fire(occasion),
      lost: (count) => this.noteLost(count),
      taken: (source) => this.deliveries.forEach((delivery) => delivery.forgetSource(source)),
      missed: (why) => this.noteSource(why),
    })
  }

  private noteSource(why: Fault | null) {
    if (why && this.sourceFault?.what !== why.what) this.around.journal.caution(this.name, why.what, why)
    this.sourceFault = why
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
    letGo(occasion, fault('bridge.no-input', { input: 'all', problem: 'too many runs wait already' }))
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
    if (occasion.payload) this.lastMessage = occasion
    if (this.inputs.longestWait === 0 && !this.inputs.asks) this.runNow(this.factsOf(occasion, number), 0)
    else this.line.push(this.factsOf(occasion, number))
    return number
  }

  /** The tag or topic that set it off. */
  private placeOf({ by, path, topic, trigger }: Occasion): string | null {
    if (by === 'tag') return tagPlace(path)
    const set = trigger === null ? undefined : this.bridge.when[trigger]
    if (set?.kind === 'file') return filePlace(set.linkId, topic)
    return set?.kind === 'message' ? topicPlace(set.linkId, topic) : null
  }

  /** It will not come to rest by itself. */
  private halt(occasion: Occasion): null {
    letGo(occasion, this.halted)
    if (this.halted) return null
    this.halted = fault('bridge.loop', { name: this.name, by: occasion.by === 'tag' ? occasion.path : occasion.topic })
    this.around.journal.trouble(this.name, this.halted.what, this.halted)
    this.stopTriggers?.()
    this.stopTriggers = null
    return null
  }

  private factsOf(occasion: Occasion, number: number): RunFacts {
    return { occasion, now: Date.now(), number, row: 1, site: this.around.site(), bridge: this.name, inputs: [] }
  }

  private runNow(begun: RunFacts, waited: number, fetched?: Fetched) {
    const began = performance.now()
    const gathered = this.inputs.gather(begun.occasion, waited, fetched)
    if (!gathered.ok) return this.skip(begun, gathered.fault)
    const facts: RunFacts = { ...begun, inputs: gathered.inputs }
    const noted = this.log.begins(facts)
    const offers = rowsOf(facts, this.listed).flatMap((row) => this.shapers.map((shaper) => this.shape(shaper, row, noted)))
    if (noted) noted.shapeMs = performance.now() - began
    const ready = offers.filter((offer) => 'record' in offer)
    const unshaped = offers.find((offer) => 'why' in offer)?.why ?? null
    if (noted && offers.length === 0) this.log.empty(noted)
    followOffers(ready, begun.occasion, unshaped)
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
    else
      for (const { stored, told } of records) {
        stored?.()
        told?.('dropped')
      }
  }

  private shape(shaper: Shaper, facts: RunFacts, noted: BridgeRun | null): Offer | { why: Fault } {
    try {
      const { source } = facts.occasion
      const record: Offered = shaper.shape(facts)
      if (source) record.source = { ...source, row: facts.row }
      if (noted) record.told = this.log.follow(noted, shaper.number, shaper.fields, record)
      return { number: shaper.number, record }
    } catch (error) {
      const field = error instanceof ShapeProblem ? error.field : `destination ${shaper.number}`
      const why = fault('bridge.field', { field, problem: (error as Error).message })
      this.fail(noted ?? facts, shaper.number, why)
      return { why }
    }
  }

  private fail(run: BridgeRun | RunFacts, number: number, why: Fault) {
    this.counts.failed++
    this.lastFault = { fault: why, at: Date.now() }
    this.log.failed(run, number, why)
  }

  private skip(facts: RunFacts, why: Fault) {
    this.counts.skipped++
    letGo(facts.occasion, why)
    this.lastFault = { fault: why, at: Date.now() }
    this.log.skipped(facts, why)
  }
}

export interface Offer {
  number: number
  record: Offered
}
