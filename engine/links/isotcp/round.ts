import { planRequests, type PlannedPiece } from '#core/isotcp/planning'
import type { IsoTcpSettings } from '#core/isotcp/settings'
import { duration } from '#core/text/duration'
import type { PointFinding } from '../driver'
import type { FenceBook } from '../fenceBook'
import { samePoints } from '../polledBlock'
import { PieceBlock, type IsoPolled, type Part } from './pieceBlock'

/** All points that share an interval, the pieces that hold them, and the requests that fetch those. */
export class IsoRound {
  blocks: PieceBlock[] = []
  requests: Part[][] = []
  nextDue = 0
  running = false
  /** How long the last complete round took, from its first request to its last answer. */
  measuredMs: number | null = null
  points = 0

  constructor(readonly interval: number) {}

  /** Plans anew. Pieces that come out the same keep what came last. */
  plan(points: IsoPolled[], size: number, { requests }: Pick<IsoTcpSettings, 'requests'>, fences: FenceBook) {
    this.points = points.length
    const before = new Map(this.blocks.map((block) => [block.key, block]))
    this.retire()
    const planned = planRequests(points, { size, readAcross: requests.readAcross, fences: (row) => fences.of(row) })
    const blocks = new Map<PlannedPiece<IsoPolled>, PieceBlock>()
    const blockOf = (piece: PlannedPiece<IsoPolled>) => {
      const made = blocks.get(piece) ?? unlessTheSame(new PieceBlock(piece), before)
      blocks.set(piece, made)
      return made
    }
    this.requests = planned.map((parts) => parts.map(({ piece, from, bytes }) => ({ block: blockOf(piece), from, bytes })))
    this.blocks = [...blocks.values()]
  }

  /** Nothing of this round is wanted any more. */
  retire() {
    for (const block of this.blocks) block.retired = true
  }

  /** The requests of a round that begins now, without what rests. */
  begin(now: number): Part[][] {
    const due = this.blocks.filter((block) => block.restUntil <= now)
    for (const block of due) block.begin()
    if (due.length === this.blocks.length) return this.requests
    return this.requests.map((parts) => parts.filter(({ block }) => block.restUntil <= now)).filter((parts) => parts.length > 0)
  }

  /** What the controller refuses, and, where a round takes longer than its interval, all of its points. */
  findings(): PointFinding[] {
    const refused = this.blocks.flatMap((block) =>
      block.isRefused ? block.handles.map((handle) => ({ handle, kind: 'refused' as const, text: block.fault!.what })) : [],
    )
    const { measuredMs, interval } = this
    if (measuredMs === null || measuredMs <= interval) return refused
    const text = `is read every ${duration(measuredMs)} and not every ${duration(interval)}: that is how long its round takes`
    return [...refused, ...this.blocks.flatMap((block) => block.handles.map((handle) => ({ handle, kind: 'interval' as const, text })))]
  }
}

const unlessTheSame = (made: PieceBlock, before: ReadonlyMap<string, PieceBlock>) => {
  const same = before.get(made.key)
  return same && samePoints(same, made) ? same.revive() : made
}
