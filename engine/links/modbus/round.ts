import { tables } from '#core/modbus/address'
import { planReads, type Plan } from '#core/links/planner'
import { planLimits, roundMs } from '#core/modbus/rounds'
import type { ModbusSettings } from '#core/modbus/settings'
import { duration } from '#core/text/duration'
import type { PointFinding } from '../driver'
import type { FenceBook } from '../fenceBook'
import { samePoints } from '../polledBlock'
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
  plan(points: PolledPoint[], unit: number, settings: ModbusSettings, fences: FenceBook) {
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

  predictedMs(answerMs: number | null, settings: ModbusSettings): number | null {
    return answerMs === null ? null : roundMs(this.blocks.length, answerMs, settings.requests)
  }
}

const keyOf = (block: ReadBlock) => `${block.table}/${block.plan.offset}/${block.plan.count}`
