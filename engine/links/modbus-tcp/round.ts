import { tables, type Table } from '#core/modbus/address'
import { planReads, type Plan } from '#core/modbus/planner'
import { planLimits, roundMs } from '#core/modbus/rounds'
import type { ModbusTcpSettings } from '#core/modbus/settings'
import { duration } from '#core/text/duration'
import type { PointFinding } from '../driver'
import { ReadBlock, type PolledPoint } from './readBlock'

/** All points of a unit that share an interval, and the requests that fetch them. */
export class Round {
  blocks: ReadBlock[] = []
  refused: Plan<PolledPoint>['refused'] = []
  nextDue = 0
  running = false
  /** How long the last complete round took, from its first request to its last reply. */
  measuredMs: number | null = null
  points = 0

  constructor(readonly interval: number) {}

  /** Plans anew. Blocks that come out the same keep their last reply. */
  plan(points: PolledPoint[], unit: number, settings: ModbusTcpSettings, fences: FenceBook) {
    this.points = points.length
    this.refused = []
    const before = new Map(this.blocks.map((block) => [keyOf(block), block]))
    this.retire()
    this.blocks = tables.flatMap((table) => {
      const ofTable = points.filter((point) => point.table === table)
      const plan = planReads(ofTable, planLimits(table, unit, settings, fences.of(table)))
      this.refused.push(...plan.refused)
      return plan.blocks.map((block) => {
        const made = new ReadBlock(table, block)
        const same = before.get(keyOf(made))
        return same && samePoints(same, made) ? same.revive() : made
      })
    })
  }

  /** Nothing of this round is wanted any more. */
  retire() {
    for (const block of this.blocks) block.retired = true
  }

  /** What the device refuses, and, where a round takes longer than its interval, all of its points. */
  findings(): PointFinding[] {
    const refused = this.blocks.flatMap((block) =>
      block.isRefused ? block.handles.map((handle) => ({ handle, kind: 'refused' as const, text: block.fault!.what })) : [],
    )
    const { measuredMs, interval } = this
    if (measuredMs === null || measuredMs <= interval) return refused
    const text = `is read every ${duration(measuredMs)} and not every ${duration(interval)}: that is how long its round takes`
    return [...refused, ...this.blocks.flatMap((block) => block.handles.map((handle) => ({ handle, kind: 'interval' as const, text })))]
  }

  predictedMs(answerMs: number | null, settings: ModbusTcpSettings): number | null {
    return answerMs === null ? null : roundMs(this.blocks.length, answerMs, settings.requests)
  }
}

/** Learned fences are tried again after this long; where they were right, ever later. */
const firstDoubtMs = 10 * 60_000
const lastDoubtMs = 24 * 3_600_000

/** Offsets across which a unit refused to be read, per table. */
export class FenceBook {
  private byTable = new Map<Table, Set<number>>()
  private learnedAt = 0
  private doubtMs = firstDoubtMs

  of(table: Table): number[] {
    return [...(this.byTable.get(table) ?? [])]
  }

  all(): Record<string, number[]> {
    return Object.fromEntries(tables.map((table) => [table, this.of(table)]))
  }

  /** Returns whether any of them is new. */
  add(table: Table, offsets: readonly number[], now = Date.now()): boolean {
    const known = this.byTable.get(table) ?? new Set()
    const before = known.size
    for (const offset of offsets) known.add(offset)
    this.byTable.set(table, known)
    if (this.learnedAt === 0) this.learnedAt = now
    return known.size > before
  }

  /** Whether it is time to doubt what was learned. */
  areOld(now: number): boolean {
    return this.learnedAt > 0 && now - this.learnedAt > this.doubtMs
  }

  /** Returns whether there was anything to forget. */
  forget(): boolean {
    if (this.byTable.size === 0) return false
    this.byTable.clear()
    this.learnedAt = 0
    this.doubtMs = Math.min(lastDoubtMs, 2 * this.doubtMs)
    return true
  }
}

const keyOf = (block: ReadBlock) => `${block.table}/${block.plan.offset}/${block.plan.count}`

const samePoints = (a: ReadBlock, b: ReadBlock) =>
  a.plan.items.length === b.plan.items.length && a.plan.items.every((item, i) => item === b.plan.items[i])
