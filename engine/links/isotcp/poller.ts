import { fault, type Fault } from '#core/faults/catalogue'
import { codeText, itemCode, itemMeaning, requestMeaning } from '#core/isotcp/codes'
import { decodeRead, encodeRead, type Piece, type PieceAnswer } from '#core/isotcp/pdu'
import type { IsoTcpSettings } from '#core/isotcp/settings'
import { fencesAround } from '#core/links/planner'
import { grouped } from '#core/lists/grouped'
import { quality } from '#core/tags/quality'
import type { JournalWriter } from '../../journal/journal'
import type { SampleSink } from '../../table/intake'
import type { Handle } from '../../table/tagTable'
import type { PointFinding } from '../driver'
import { FenceBook } from '../fenceBook'
import { PlanTimer } from '../planTimer'
import type { Call, Outcome } from './connection'
import { pieceOf, placeOf, type IsoPolled, type Part, type PieceBlock } from './pieceBlock'
import type { Pool } from './pool'
import { IsoRound } from './round'

export interface PollerContext {
  link: string
  table: SampleSink
  journal: JournalWriter
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
export class Poller {
  readonly health = { requests: 0, failures: 0, answerMs: null as number | null, silentInARow: 0, lastFault: null as Fault | null }
  private points = new Map<Handle, IsoPolled>()
  private rounds = new Map<number, IsoRound>()
  private blockOf = new Map<Handle, PieceBlock>()
  private fences = new FenceBook()
  private timer: NodeJS.Timeout | null = null
  private planning = new PlanTimer(() => this.replan())
  private closed = false

  constructor(
    private context: PollerContext,
    private settings: IsoTcpSettings,
    private pool: () => Pool,
  ) {}

  setPoints(changed: readonly IsoPolled[], removed: readonly Handle[]) {
    for (const handle of removed) this.letGo(handle)
    for (const point of changed) {
      this.letGo(point.handle)
      this.points.set(point.handle, point)
    }
    if (this.rounds.size === 0) this.planning.now()
    else this.planning.soon()
  }

  /** From now on no answer reaches this handle, which may be another tag's by then. */
  private letGo(handle: Handle) {
    this.points.delete(handle)
    this.blockOf.get(handle)?.letGo(handle)
    this.blockOf.delete(handle)
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

  private forgetFences() {
    if (!this.fences.forget()) return
    for (const block of this.allBlocks()) block.restUntil = 0
    this.planning.now()
  }

  disconnected(why: Fault) {
    this.health.lastFault = why
    for (const block of this.allBlocks()) block.degrade(quality.BadNotConnected, why, this.context.table)
    this.context.table.flush()
  }

  /** The connections are others; until they bring something, values are only what was last seen. */
  unsettle() {
    for (const block of this.allBlocks()) block.degrade(quality.UncertainLastUsableValue, null, this.context.table)
    this.context.table.flush()
  }

  /** Another controller answers from now on; nothing that was seen counts. */
  forget() {
    for (const block of this.allBlocks()) block.forget(this.context.table)
    this.context.table.flush()
  }

  close() {
    this.closed = true
    if (this.timer) clearTimeout(this.timer)
    this.planning.close()
  }

  pointOf(handle: Handle): IsoPolled | undefined {
    return this.points.get(handle)
  }

  blockFor(handle: Handle): PieceBlock | undefined {
    return this.blockOf.get(handle)
  }

  allBlocks(): PieceBlock[] {
    return [...this.rounds.values()].flatMap((round) => round.blocks)
  }

  roundsInOrder(): IsoRound[] {
    return [...this.rounds.values()].sort((a, b) => a.interval - b.interval)
  }

  experience() {
    return { answerMs: this.health.answerMs, fences: this.fences.all() }
  }

  findings(): PointFinding[] {
    return [...this.rounds.values()].flatMap((round) => round.findings())
  }

  private replan() {
    const byInterval = grouped(this.points.values(), ({ interval }) => interval)
    for (const [interval, round] of this.rounds) if (!byInterval.has(interval)) this.drop(interval, round)
    this.blockOf.clear()
    for (const [interval, points] of byInterval) this.planRound(interval, points)
    this.schedule()
  }

  private drop(interval: number, round: IsoRound) {
    round.retire()
    this.rounds.delete(interval)
  }

  private planRound(interval: number, points: IsoPolled[]) {
    const { table } = this.context
    const round = this.rounds.get(interval) ?? new IsoRound(interval)
    this.rounds.set(interval, round)
    const pool = this.pool()
    round.plan(points, pool.size ?? usualSize, this.settings, this.fences)
    for (const block of round.blocks) for (const handle of block.handles) this.blockOf.set(handle, block)
    const unread = round.blocks.filter((block) => block.isUnread)
    if (unread.length > 0) round.nextDue = 0
    const why = pool.fault
    if (why) for (const block of unread) block.degrade(quality.BadNotConnected, why, table)
    if (why) table.flush()
  }

  /** Waits for the next round that is due. */
  private schedule() {
    if (this.timer) clearTimeout(this.timer)
    this.timer = null
    if (this.closed || this.pool().open === 0) return
    const waiting = [...this.rounds.values()].filter((round) => !round.running)
    if (waiting.length === 0) return
    const next = Math.min(...waiting.map(({ nextDue }) => nextDue))
    this.timer = setTimeout(() => this.runDue(), Math.max(0, next - Date.now()))
  }

  private runDue() {
    const now = Date.now()
    for (const round of this.rounds.values()) if (!round.running && round.nextDue <= now) void this.run(round, now)
    this.schedule()
  }

  private async run(round: IsoRound, now: number) {
    round.running = true
    const late = now - round.nextDue
    round.nextDue = round.nextDue === 0 || late > round.interval ? now + round.interval : round.nextDue + round.interval
    const started = performance.now()
    const requests = round.begin(now)
    await Promise.all(requests.map((parts) => this.ask(parts, round)))
    if (requests.length > 0) round.measuredMs = performance.now() - started
    round.running = false
    if (this.fences.areOld(Date.now())) this.forgetFences()
    this.schedule()
  }

  private async ask(parts: Part[], round: IsoRound) {
    const pieces = parts.map(({ block, from, bytes }) => pieceOf({ piece: block.piece, from, bytes }))
    const outcome = await this.pool().read(readCall(pieces))
    if (this.closed || outcome.kind === 'closed' || outcome.kind === 'expired') return
    this.health.requests++
    this.take(outcome, parts, round)
    this.context.table.flush()
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
