import { fault, type Fault } from '#core/faults/catalogue'
import { exception, exceptionMeaning } from '#core/modbus/exceptions'
import { fencesAround } from '#core/links/planner'
import { answerMsOf, type ModbusSettings } from '#core/modbus/settings'
import { quality } from '#core/tags/quality'
import type { UnitStatus } from '#shared/status'
import { steadyNow, wallOf } from '#pacing/clock'
import type { JournalWriter } from '../../journal/journal'
import type { SampleSink } from '../../table/intake'
import type { Handle } from '../../table/tagTable'
import { malformedFault, type Outcome } from './connection'
import { FenceBook } from '../fenceBook'
import { nextBeat, RoundPoller } from '../roundPoller'
import type { Meters } from '#core/statistics/meters'
import type { Lane } from './lane'
import type { PolledPoint, ReadBlock } from './readBlock'
import { Round } from './round'
import { sentenceFor } from './sentences'
import { silenceFault } from './writing'

export interface PollerContext {
  link: string
  unit: number
  table: SampleSink
  journal: JournalWriter
  meters: Meters
}

/** Silent this often in a row, values are bad even where a unit is never left out. */
const badAfter = 3
const mostRefusedShown = 20

/**
 * Polls one unit: a round per interval, each a few planned requests. Knows how the unit is doing
 * and leaves it out of the polling for a while when it stays silent, so that it costs the others
 * nothing.
 */
export class UnitPoller extends RoundPoller<PolledPoint, ReadBlock, Round> {
  readonly health = {
    requests: 0,
    failures: 0,
    answerMs: null as number | null,
    silentInARow: 0,
    silentSince: 0,
    leftOutUntil: 0,
    lastFault: null as Fault | null,
  }
  constructor(
    private context: PollerContext,
    private settings: ModbusSettings,
    private lane: Lane,
  ) {
    super(context.table)
  }

  get unit() {
    return this.context.unit
  }

  adjust(settings: ModbusSettings) {
    this.settings = settings
    this.fences = new FenceBook()
    this.planning.now()
  }

  moveTo(lane: Lane) {
    this.lane = lane
    this.wake()
  }

  /**
   * The lane is open (again): everything is due. A unit that is left out stays so, unless the
   * whole far side was away, for then its silence proves nothing.
   */
  wake(afterOutage = false) {
    if (afterOutage) {
      this.health.leftOutUntil = 0
      this.forgetFences()
    }
    for (const round of this.rounds.values()) round.nextDue = 0
    this.schedule()
  }

  /** Asks at once whether a unit that is left out is back. */
  tryNow() {
    this.health.leftOutUntil = 0
    for (const round of this.rounds.values()) round.nextDue = 0
    this.schedule()
  }

  /** The lane is down. */
  disconnected(why: Fault) {
    if (this.health.silentInARow === 0) this.health.silentSince = steadyNow()
    this.health.lastFault = why
    const code = why.code === 'modbus.dead-connection' ? quality.BadNoCommunication : quality.BadNotConnected
    this.degradeAll(code, why)
  }

  refusalFor(handle: Handle) {
    for (const round of this.rounds.values()) {
      const found = round.refused.find(({ item }) => item.handle === handle)
      if (found) return found.reason
    }
    return null
  }

  experience() {
    return { answerMs: this.health.answerMs, fences: this.fences.all() }
  }

  status(): UnitStatus {
    const { health, settings, lane } = this
    const rounds = this.roundsInOrder().map((round) => ({
      interval: round.interval,
      points: round.points,
      requests: round.blocks.length,
      predictedMs: round.predictedMs(health.answerMs, settings),
      measuredMs: round.measuredMs,
    }))
    const refused = this.allBlocks().flatMap((block) => block.refused())
    const { flow, sentence, isSlow } = sentenceFor({ health, lane, rounds, refused, now: steadyNow() })
    return {
      unit: String(this.unit),
      flow,
      sentence,
      ...(isSlow ? { isSlow } : {}),
      answerMs: health.answerMs,
      requests: health.requests,
      failures: health.failures,
      lateReplies: lane.strays.late,
      foreignReplies: lane.strays.foreign,
      rounds,
      leftOutUntil: health.leftOutUntil ? wallOf(health.leftOutUntil) : null,
      lastFault: health.lastFault,
      refused: refused.slice(0, mostRefusedShown),
      refusedCount: refused.length,
    }
  }

  protected plan(interval: number, points: PolledPoint[], before: Round | undefined): Round {
    const round = before ?? new Round(interval)
    round.plan(points, this.unit, this.settings, this.fences)
    const now = Date.now()
    for (const { item } of round.refused) this.table.degrade(item.handle, quality.BadConfigurationError, now)
    if (round.refused.length > 0) this.table.flush()
    return round
  }

  protected whyUnasked() {
    const { lane, health } = this
    const why = !lane.isOpen ? lane.fault : health.leftOutUntil > steadyNow() ? health.lastFault : null
    return why && { why, code: lane.isOpen ? quality.BadNoCommunication : quality.BadNotConnected }
  }

  protected schedule() {
    if (this.closed) return
    if (this.timer) clearTimeout(this.timer)
    this.timer = null
    const waiting = [...this.rounds.values()].filter((round) => !round.running)
    const probeUnderWay = this.isProbing && waiting.length < this.rounds.size
    if (waiting.length === 0 || probeUnderWay || !this.lane.isOpen) return
    const due = Math.max(Math.min(...waiting.map((round) => round.nextDue)), this.health.leftOutUntil)
    const wait = due - steadyNow()
    if (wait <= 0) this.runDue()
    else this.timer = setTimeout(() => this.runDue(), wait)
  }

  private runDue() {
    this.timer = null
    if (this.closed || !this.lane.isOpen) return
    const now = steadyNow()
    const due = [...this.rounds.values()].filter((round) => !round.running && round.nextDue <= now)
    for (const round of this.isProbing ? due.slice(0, 1) : due) void this.run(round, now)
    this.schedule()
  }

  private async run(round: Round, now: number) {
    round.running = true
    round.nextDue = nextBeat(round, now)
    const started = performance.now()
    const isProbe = this.isProbing
    const due = round.blocks.filter((block) => block.restUntil <= now)
    const asked = isProbe ? due.slice(0, 1) : due
    await Promise.all(asked.map((block) => this.ask(block, round)))
    if (!this.isProbing && !isProbe && asked.length > 0) round.measuredMs = performance.now() - started
    round.running = false
    if (this.fences.areOld(now)) this.forgetFences()
    if (isProbe && this.health.silentInARow === 0) for (const each of this.rounds.values()) each.nextDue = 0
    this.schedule()
  }

  /** After a silence one request goes out to see whether the unit is back; the rest waits for its answer. */
  private get isProbing() {
    return this.health.silentInARow >= this.leaveOutAfter
  }

  private get leaveOutAfter() {
    return this.settings.leaveOut.after || Infinity
  }

  private async ask(block: ReadBlock, round: Round) {
    const outcome = await this.lane.read(this.unit, block.request)
    if (this.closed || outcome.kind === 'closed' || outcome.kind === 'expired' || outcome.kind === 'obeyed') return
    this.health.requests++
    this.measure(outcome)
    if (block.retired) return
    this.take(outcome, block, round)
    this.context.table.flush()
  }

  private measure(outcome: Exclude<Outcome, { kind: 'closed' | 'expired' | 'obeyed' }>) {
    const { unit, meters } = this.context
    const part = String(unit)
    if (outcome.kind === 'reply') meters.answered(part, outcome.ms)
    else if (outcome.kind === 'exception') meters.failed(part, `modbus.exception ${outcome.code}`, outcome.ms)
    else meters.failed(part, `modbus.${outcome.kind}`, null, outcome.kind === 'silent' ? outcome.ms : 0)
  }

  private take(outcome: Exclude<Outcome, { kind: 'closed' | 'expired' | 'obeyed' }>, block: ReadBlock, round: Round) {
    switch (outcome.kind) {
      case 'reply': {
        this.answered(outcome.ms)
        if ('data' in outcome.reply) block.accept(outcome.reply.data, outcome.at, outcome.ms, this.context.table)
        return
      }
      case 'exception':
        return this.refused(outcome.code, outcome.ms, block, round)
      case 'silent':
        return this.silent(block, silenceFault(this.unit, answerMsOf(this.settings, this.unit), outcome.came))
      case 'malformed':
        return this.silent(block, malformedFault({ ...this.settings, unit: this.unit }, outcome.problem, outcome.service))
    }
  }

  private answered(ms: number) {
    const { health } = this
    health.answerMs = health.answerMs === null ? ms : health.answerMs * 0.8 + ms * 0.2
    if (this.isProbing) this.context.journal.note(this.context.link, `Unit ${this.unit} answers again, and is back in the round.`)
    health.silentInARow = 0
    health.silentSince = 0
    health.leftOutUntil = 0
  }

  private failed(why: Fault) {
    this.health.failures++
    this.health.lastFault = why
  }

  private silent(block: ReadBlock, why: Fault) {
    const { health } = this
    this.failed(why)
    if (health.silentInARow++ === 0) health.silentSince = steadyNow()
    const bad = health.silentInARow >= (this.settings.leaveOut.after || badAfter)
    block.degrade(bad ? quality.BadNoCommunication : quality.UncertainLastUsableValue, why, this.context.table)
    if (this.isProbing) this.leaveOut(why)
  }

  private leaveOut(why: Fault) {
    const { health, settings, context } = this
    health.leftOutUntil = steadyNow() + settings.leaveOut.for
    this.lane.dropReads(this.unit)
    for (const block of this.allBlocks()) block.degrade(quality.BadNoCommunication, why, context.table)
    if (health.silentInARow === this.leaveOutAfter)
      context.journal.caution(
        context.link,
        `Unit ${this.unit} ${why.code === 'modbus.silent' ? 'was silent' : 'gave nothing usable'} ${health.silentInARow} times in a row; it is left out of the round for ${settings.leaveOut.for / 1000} s at a time.`,
        why,
      )
  }

  /** An exception is an answer: the unit lives. What it says decides what becomes of the block. */
  private refused(code: number, ms: number, block: ReadBlock, round: Round) {
    const { name, words, next } = exceptionMeaning(code)
    const why = fault(
      'modbus.exception',
      { unit: this.unit, code, name, words, next },
      `function ${block.request.fc}, offset ${block.plan.offset}, count ${block.plan.count}`,
    )
    if (code === exception.gatewayPathUnavailable || code === exception.gatewayTargetFailed) return this.silent(block, why)
    this.answered(ms)
    if (code === exception.illegalDataAddress || code === exception.illegalDataValue) return this.corner(block, round, why)
    this.failed(why)
    block.degrade(code === exception.illegalFunction ? quality.BadNotSupported : quality.BadDeviceFailure, why, this.context.table)
  }

  /** Splits a refused block until the address that the device does not have stands alone. */
  private corner(block: ReadBlock, round: Round, why: Fault) {
    const fences = fencesAround(block.plan)
    if (fences.length > 0 && this.fences.add(block.table, fences)) {
      round.nextDue = 0
      return this.planning.now()
    }
    this.failed(why)
    if (block.restUntil === 0)
      this.context.journal.caution(
        this.context.link,
        `${block.plan.items.map((item) => item.path).join(', ')}: unit ${this.unit} refuses this address.`,
        why,
      )
    block.rest(Math.max(round.interval, this.settings.leaveOut.for))
    block.degrade(quality.BadConfigurationError, why, this.context.table)
  }
}
