import { grouped } from '../lists/grouped'
import { planReads, type Block, type Plan } from '../links/planner'
import { maxOffset } from './address'
import type { IsoPoint, Row } from './point'

/** One piece of a plan: points of one row that are read together. */
export interface PlannedPiece<T extends IsoPoint> extends Block<T> {
  row: Row
}

export interface IsoPlan<T extends IsoPoint> {
  pieces: PlannedPiece<T>[]
  refused: Plan<T>['refused']
}

/**
 * The pieces that fetch these points: per block or area the cheapest cuts. A point that is longer than a request stands
 * alone, and is read in parts.
 * @param most bytes that one piece may have @param fences offsets that a row was seen not to be read across
 */
export const planPieces = <T extends IsoPoint>(
  points: Iterable<T>,
  { most, readAcross, fences }: { most: number; readAcross: number; fences(row: string): readonly number[] },
): IsoPlan<T> => {
  const plan: IsoPlan<T> = { pieces: [], refused: [] }
  for (const [key, ofRow] of grouped(points, ({ row }) => row.key)) {
    const { row } = ofRow[0]!
    const most1 = Math.floor(most / row.width)
    const [long, short] = [ofRow.filter(({ count }) => count > most1), ofRow.filter(({ count }) => count <= most1)]
    const limits = { requestCost: readAcross, holes: [], fences: fences(key), last: maxOffset }
    for (const point of long) plan.pieces.push({ row, offset: point.offset, count: point.count, items: [point] })
    const { blocks, refused } = planReads(short, { ...limits, most: most1 })
    plan.pieces.push(...blocks.map((block) => ({ ...block, row })))
    plan.refused.push(...refused)
  }
  return plan
}
