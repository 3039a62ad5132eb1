import { fault, type Fault } from '#core/faults/catalogue'
import { codeText, itemCode, itemMeaning, requestMeaning } from '#core/isotcp/codes'
import { decodeRead, encodeRead, type Piece, type PieceAnswer } from '#core/isotcp/pdu'
import type { IsoTcpSettings } from '#core/isotcp/settings'
import { fencesAround } from '#core/links/planner'
import { quality } from '#core/tags/quality'
import { steadyNow } from '#pacing/clock'
import type { JournalWriter } from '../../journal/journal'
import type { SampleSink } from '../../table/intake'
import { FenceBook } from '../fenceBook'
import { nextBeat, untilDue, RoundPoller } from '../roundPoller'
import type { Meters } from '#core/statistics/meters'
import type { Call, Outcome } from './connection'
import { pieceOf, placeOf, type IsoPolled, type Part, type PieceBlock } from './pieceBlock'
import type { Pool } from './pool'
import { IsoRound } from './round'

export interface PollerContext {
  link: string
  table: SampleSink
  journal: JournalWriter
  meters: Meters
}

/** Silent this often in a row, values are bad. */
const badAfter = 2
/** A refused place is not asked for again before this time. */
const firstRestMs = 30_000
/** Before a controller said how large requests may be. */
const usualSize = 240

export const readCall = (pieces: readonly Piece[]): Call<PieceAnswer[]> => ({
  encode: (reference) => encodeRead(reference, pieces),
  decode: (answer) => decodeRead(answer, pieces),
})

/** Polls a controller: a round per interval, each a few requests, of which as many are under way as it allows. */
export class Poller extends RoundPoller<IsoPolled, PieceBlock, IsoRound> {
  readonly health = { requests: 0, failures: 0, answerMs: null as number | null, silentInARow: 0, lastFault: null as Fault | null }

  constructor(
    private context: PollerContext,
    private settings: IsoTcpSettings,
    private pool: () => Pool,
  ) {
    super(context.table)
  }

  adjust(settings: IsoTcpSettings) {
    this.settings = settings
    this.fences = new FenceBook()
    this.planning.now()
  }

  /** Requests may be of another size. */
  replanSoon() {
    this.planning.now()
  }

  /** There is a connection again: everything is due, and what was refused before is asked for once more. */
  wake() {
    this.health.silentInARow = 0
    this.forgetFences()
    for (const block of this.allBlocks()) block.restUntil = 0
    for (const round of this.rounds.values()) round.nextDue = 0
    this.planning.now()
  }

  disconnected(why: Fault) {
    this.health.lastFault = why
    this.degradeAll(quality.BadNotConnected, why)
  }

  experience() {
    return { answerMs: this.health.answerMs, fences: this.fences.all() }
  }

  protected plan(interval: number, points: IsoPolled[], before: IsoRound | undefined): IsoRound {
    const round = before ?? new IsoRound(interval)
    round.plan(points, this.pool().size ?? usualSize, this.settings, this.fences)
    return round
  }

  protected whyUnasked() {
    const why = this.pool().fault
    return why && { why, code: quality.BadNotConnected }
  }

  protected schedule() {
    if (this.timer) clearTimeout(this.timer)
    this.timer = null
    if (this.closed || this.pool().open === 0) return
    const ms = untilDue(this.rounds.values())
    if (ms !== null) this.timer = setTimeout(() => this.runDue(), ms)
  }

  private runDue() {
    const now = steadyNow()
    for (const round of this.rounds.values()) if (!round.running && round.nextDue <= now) void this.run(round, now)
    this.schedule()
  }

  private async run(round: IsoRound, now: number) {
    round.running = true
    round.nextDue = nextBeat(round, now)
    const started = performance.now()
    const requests = round.begin(now)
    await Promise.all(requests.map((parts) => this.ask(parts, round)))
    if (requests.length > 0) round.measuredMs = performance.now() - started
    round.running = false
    if (this.fences.areOld(steadyNow())) this.forgetFences()
    this.schedule()
  }

  private async ask(parts: Part[], round: IsoRound) {
    const pieces = parts.map(({ block, from, bytes }) => pieceOf({ piece: block.piece, from, bytes }))
    const outcome = await this.pool().read(readCall(pieces))
    if (this.closed || outcome.kind === 'closed' || outcome.kind === 'expired') return
    this.health.requests++
    this.measure(outcome)
    this.take(outcome, parts, round)
    this.context.table.flush()
  }

  private measure(outcome: Exclude<Outcome<PieceAnswer[]>, { kind: 'closed' | 'expired' }>) {
    const { meters } = this.context
    if (outcome.kind === 'refused') return meters.failed(null, `iso.refused ${codeText(outcome.code)}`, outcome.ms)
    if (outcome.kind !== 'done') return meters.failed(null, `iso.${outcome.kind}`, null, this.settings.patience.answer)
    const refused = outcome.value.find((answer) => !answer.ok)
    if (refused && !refused.ok) meters.failed(null, `iso.piece ${codeText(refused.code)}`, outcome.ms)
    else meters.answered(null, outcome.ms)
  }

  private take(outcome: Exclude<Outcome<PieceAnswer[]>, { kind: 'closed' | 'expired' }>, parts: Part[], round: IsoRound) {
    const { host, port, patience } = this.settings
    switch (outcome.kind) {
      case 'done':
        this.answered(outcome.ms)
        for (const [i, part] of parts.entries()) this.takePart(outcome.value[i]!, part, round, outcome)
        return
      case 'refused':
        this.answered(outcome.ms)
        return this.failed(parts, requestFault(outcome.code), quality.BadDeviceFailure)
      case 'silent':
        return this.silent(parts, fault('iso.silent', { host, port, ms: patience.answer }))
      case 'malformed':
        return this.silent(parts, fault('iso.malformed', { host, port, problem: outcome.problem }))
    }
  }

  private takePart(answer: PieceAnswer, part: Part, round: IsoRound, { at, ms }: { at: number; ms: number }) {
    const { block } = part
    if (block.retired) return
    if (answer.ok) return block.take(part, answer.data, at, ms, this.context.table)
    this.refused(answer.code, block, round)
  }

  private answered(ms: number) {
    const { health } = this
    health.answerMs = health.answerMs === null ? ms : health.answerMs * 0.8 + ms * 0.2
    health.silentInARow = 0
  }

  private silent(parts: readonly Part[], why: Fault) {
    this.health.silentInARow++
    this.failed(parts, why, this.health.silentInARow >= badAfter ? quality.BadNoCommunication : quality.UncertainLastUsableValue)
  }

  private failed(parts: readonly Part[], why: Fault, code: number) {
    this.health.failures++
    this.health.lastFault = why
    for (const { block } of parts) if (!block.retired) block.degrade(code, why, this.context.table)
  }

  /** A piece is refused by itself; what came with it in the same request is good. */
  private refused(code: number, block: PieceBlock, round: IsoRound) {
    if (code === itemCode.address && this.corner(block, round)) return
    const { words, next } = itemMeaning(code)
    const why = fault('iso.piece', { place: placeOf(block.piece), code: codeText(code), words, next })
    this.health.failures++
    this.health.lastFault = why
    if (block.restUntil === 0)
      this.context.journal.caution(this.context.link, `${pathsOf(block)}: the controller refuses ${placeOf(block.piece)}.`, why)
    block.rest(Math.max(round.interval, firstRestMs))
    block.degrade(qualityOf(code), why, this.context.table)
  }

  /** Splits a piece that reaches past the end until what is past it stands alone. */
  private corner(block: PieceBlock, round: IsoRound): boolean {
    const fences = fencesAround(block.plan)
    if (fences.length === 0 || !this.fences.add(block.piece.row.key, fences)) return false
    round.nextDue = 0
    this.planning.now()
    return true
  }
}

export const requestFault = (code: number): Fault => {
  const { words, next } = requestMeaning(code)
  return fault('iso.request', { code: codeText(code), words, next })
}

export const qualityOf = (code: number): number => {
  if (code === itemCode.denied) return quality.BadUserAccessDenied
  if (code === itemCode.address || code === itemCode.missing) return quality.BadConfigurationError
  return code === itemCode.unknownType || code === itemCode.otherType ? quality.BadTypeMismatch : quality.BadDeviceFailure
}

const mostNamed = 3
const pathsOf = ({ plan }: PieceBlock) => {
  const named = plan.items.slice(0, mostNamed).map(({ path }) => path)
  const more = plan.items.length - named.length
  return named.join(', ') + (more > 0 ? ` and ${more} more` : '')
}
