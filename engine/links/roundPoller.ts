import type { Fault } from '#core/faults/catalogue'
import { grouped } from '#core/lists/grouped'
import { quality } from '#core/tags/quality'
import { steadyNow } from '#pacing/clock'
import type { SampleSink } from '../table/intake'
import type { Handle } from '../table/tagTable'
import type { PointFinding } from './driver'
import { FenceBook } from './fenceBook'
import { PlanTimer } from './planTimer'
import type { PolledBlock, PolledItem } from './polledBlock'

/** All points that share an interval, and the blocks that hold them. */
export interface PolledRound<B> {
  readonly interval: number
  blocks: B[]
  nextDue: number
  running: boolean
  /** Nothing of it is wanted any more. */
  retire(): void
  findings(): PointFinding[]
}

/** Points that are read in rounds, one per interval: which there are, which block holds each, and when all of it is planned anew. */
export abstract class RoundPoller<P extends PolledItem, B extends PolledBlock<P>, R extends PolledRound<B>> {
  protected points = new Map<Handle, P>()
  protected rounds = new Map<number, R>()
  protected fences = new FenceBook()
  protected timer: NodeJS.Timeout | null = null
  protected planning = new PlanTimer(() => this.replan())
  protected closed = false
  private blockOf = new Map<Handle, B>()

  constructor(protected table: SampleSink) {}

  /** Plans the points of an interval anew. @param round the one before */
  protected abstract plan(interval: number, points: P[], round: R | undefined): R
  /** Waits for the next round that is due. */
  protected abstract schedule(): void
  /** Why what has joined just now cannot be asked; null: it can. */
  protected abstract whyUnasked(): { why: Fault; code: number } | null

  get isEmpty() {
    return this.points.size === 0
  }

  setPoints(changed: readonly P[], removed: readonly Handle[]) {
    for (const handle of removed) this.letGo(handle)
    for (const point of changed) {
      this.letGo(point.handle)
      this.points.set(point.handle, point)
    }
    if (this.rounds.size === 0) this.planning.now()
    else this.planning.soon()
  }

  /** From now on no reply reaches this handle, which may be another tag's by then. */
  private letGo(handle: Handle) {
    this.points.delete(handle)
    this.blockOf.get(handle)?.letGo(handle)
    this.blockOf.delete(handle)
  }

  /** What a device refused while it was starting, or before it was mended, is asked for once more. */
  protected forgetFences() {
    if (!this.fences.forget()) return
    for (const block of this.allBlocks()) block.restUntil = 0
    this.planning.now()
  }

  protected degradeAll(code: number, why: Fault | null) {
    for (const block of this.allBlocks()) block.degrade(code, why, this.table)
    this.table.flush()
  }

  /** The connection is another one; until it answers, values are only what was last seen. */
  unsettle() {
    this.degradeAll(quality.UncertainLastUsableValue, null)
  }

  /** Another device answers from now on; nothing that was seen counts. */
  forget() {
    for (const block of this.allBlocks()) block.forget(this.table)
    this.table.flush()
  }

  close() {
    this.closed = true
    if (this.timer) clearTimeout(this.timer)
    this.planning.close()
  }

  pointOf(handle: Handle): P | undefined {
    return this.points.get(handle)
  }

  blockFor(handle: Handle): B | undefined {
    return this.blockOf.get(handle)
  }

  allBlocks(): B[] {
    return [...this.rounds.values()].flatMap((round) => round.blocks)
  }

  roundsInOrder(): R[] {
    return [...this.rounds.values()].sort((a, b) => a.interval - b.interval)
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

  private drop(interval: number, round: R) {
    round.retire()
    this.rounds.delete(interval)
  }

  private planRound(interval: number, points: P[]) {
    const round = this.plan(interval, points, this.rounds.get(interval))
    this.rounds.set(interval, round)
    for (const block of round.blocks) for (const handle of block.handles) this.blockOf.set(handle, block)
    const unread = round.blocks.filter((block) => block.isUnread)
    if (unread.length > 0) round.nextDue = 0
    this.tellUnread(unread)
  }

  /** What joins where nothing can be asked now says so at once, and does not wait for its turn. */
  private tellUnread(unread: readonly B[]) {
    const unasked = this.whyUnasked()
    if (!unasked) return
    for (const block of unread) block.degrade(unasked.code, unasked.why, this.table)
    this.table.flush()
  }
}

/** When a round that begins now is due again: it keeps to its beat, unless it is later than one. */
export const nextBeat = ({ nextDue, interval }: Pick<PolledRound<unknown>, 'nextDue' | 'interval'>, now: number): number =>
  nextDue === 0 || now - nextDue > interval ? now + interval : nextDue + interval

/** How long until the next round is due that does not run already, ms; null: none waits. */
export const untilDue = (rounds: Iterable<Pick<PolledRound<unknown>, 'nextDue' | 'running'>>): number | null => {
  let next = Infinity
  for (const { nextDue, running } of rounds) if (!running) next = Math.min(next, nextDue)
  return next === Infinity ? null : Math.max(0, next - steadyNow())
}
