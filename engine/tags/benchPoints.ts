import { fault } from '#core/faults/catalogue'
import { isGood, quality, qualityText } from '#core/tags/quality'
import type { TagValue } from '#core/tags/types'
import { mostKept, type BenchPoint, type BenchReading } from '#shared/bench'
import { toWire, type ValueOrigin, type WriteResult } from '#shared/values'
import type { Writer } from '#shared/writes'
import type { WriteOutcome } from '../links/driver'
import type { Handle, TagTable } from '../table/tagTable'
import type { Asked, PointsOnRequest } from './pointsOnRequest'

interface Around {
  table: TagTable
  requested: Pick<PointsOnRequest, 'askPoint' | 'release' | 'isAlive'>
  originOf(handle: Handle, brief: boolean): ValueOrigin | null
  write(handle: Handle, value: TagValue, by: Writer): Promise<WriteOutcome>
}

interface Held {
  handle: Handle
  askedAt: number
  /** Writes under way: it stays as long. */
  busy: number
}

/** Nobody asked for this long: it is read no more. */
const heldMs = 10_000
const lookEveryMs = 2000
/** A write waits for the first answer at most so long. */
const connectsMs = 5000
const connectLookMs = 20
/** Of all people together. */
const mostHeld = 20 * mostKept

/**
 * Points that are tried without a tag. One is read from when somebody first asks for it until nobody has asked for ten
 * seconds; who asks for the same shares it.
 */
export class BenchPoints {
  private held = new Map<string, Held>()
  private timer = setInterval(() => this.letGo(), lookEveryMs)

  constructor(private around: Around) {}

  /** @param open of which other readings of the same words are wanted, too. */
  now(points: readonly (BenchPoint & { id: number })[], open: number | null = null): BenchReading[] {
    return points.map((point) => this.reading(point, point.id !== open))
  }

  /** The same without how it is made, which takes its time. */
  sample(point: BenchPoint): { quality: number; value: TagValue | undefined; seenAt: number; problem: string | null } {
    const held = this.hold(point)
    if (!('handle' in held)) return { quality: quality.BadConfigurationError, value: undefined, seenAt: 0, problem: held.problem }
    const { values, quality: codes, seenAt } = this.around.table
    const { handle } = held
    const problem = isGood(codes[handle]!) ? null : (this.around.originOf(handle, true)?.fault?.what ?? qualityText(codes[handle]!))
    return { quality: codes[handle]!, value: values[handle], seenAt: seenAt[handle]!, problem }
  }

  async write(point: BenchPoint, value: TagValue, by: Writer): Promise<WriteResult> {
    const held = this.hold(point)
    if (!('handle' in held)) return { ok: false, fault: fault('entry.unreadable', { problem: held.problem }) }
    held.busy++
    try {
      await this.firstAnswer(held.handle)
      const outcome = await this.around.write(held.handle, value, by)
      return outcome.ok ? { ok: true, readBack: toWire(this.around.table.values[held.handle]) } : { ok: false, fault: outcome.fault }
    } finally {
      held.busy--
    }
  }

  /** A link that had nothing to read has no connection yet. */
  private async firstAnswer(handle: Handle) {
    const end = Date.now() + connectsMs
    while (this.around.table.quality[handle] === quality.BadWaitingForInitialData && Date.now() < end)
      await new Promise((resolve) => setTimeout(resolve, connectLookMs))
  }

  close() {
    clearInterval(this.timer)
    for (const [key, { handle }] of this.held) this.release(key, handle)
  }

  private reading(point: BenchPoint & { id: number }, brief: boolean): BenchReading {
    const { id, type } = point
    const held = this.hold(point)
    if (!('handle' in held)) return nothing(id, type, held.problem)
    const { table } = this.around
    const { handle } = held
    return {
      ...{ id, type, value: toWire(table.values[handle]), quality: table.quality[handle]! },
      ...{ sourceTime: table.sourceTime[handle]!, seenAt: table.seenAt[handle]!, origin: this.around.originOf(handle, brief) },
    }
  }

  private hold(point: BenchPoint): Held | Extract<Asked, { ok: false }> {
    const key = keyOf(point)
    const known = this.held.get(key)
    if (known && this.around.requested.isAlive(known.handle)) {
      known.askedAt = Date.now()
      return known
    }
    if (known) this.release(key, known.handle)
    if (this.held.size >= mostHeld) return { ok: false, problem: `${mostHeld} points are tried already, and no more at once` }
    const asked = this.around.requested.askPoint(point, true)
    if (!asked.ok) return asked
    const held: Held = { handle: asked.handle, askedAt: Date.now(), busy: 0 }
    this.held.set(key, held)
    return held
  }

  private letGo() {
    const end = Date.now() - heldMs
    for (const [key, { handle, askedAt, busy }] of this.held) if (askedAt < end && busy === 0) this.release(key, handle)
  }

  private release(key: string, handle: Handle) {
    this.held.delete(key)
    this.around.requested.release(handle)
  }
}

const keyOf = ({ linkId, address, type, options, interval }: BenchPoint) => JSON.stringify([linkId, address, type, options, interval])

const nothing = (id: number, type: BenchPoint['type'], problem: string): BenchReading => ({
  ...{ id, type, value: null, quality: quality.BadConfigurationError, sourceTime: 0, seenAt: 0 },
  origin: { stages: [], readings: [], wordsFrom: '', goesTo: [], fault: fault('entry.unreadable', { problem }) },
})
