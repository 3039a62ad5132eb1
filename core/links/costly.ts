import type { CostlyTag } from './load'
import type { Block, PlanItem } from './planner'

const mostCostly = 8

/** Elements that somebody wants, each counted once. */
export const wantedOf = (blocks: readonly Block<PlanItem>[]) => {
  let wanted = 0
  for (const { items } of blocks) {
    let end = -1
    for (const { offset, count } of items) {
      wanted += Math.max(0, offset + count - Math.max(offset, end))
      end = Math.max(end, offset + count)
    }
  }
  return wanted
}

/** The tags of the emptiest requests: without them the request would not be made. */
export class CostlyTags {
  private found: CostlyTag[] = []

  /** @param items what shares a request @param requestMs what a request takes */
  note(items: readonly { point: { id: number | null; path: string } }[], interval: number, requestMs: number) {
    const cost = ((requestMs / items.length) * 1000) / interval
    const { found } = this
    if (found.length >= 4 * mostCostly && cost <= found[found.length - 1]!.cost) return
    const { id, path } = items[0]!.point
    found.push({ id, path, cost, interval, sharedWith: items.length - 1 })
    found.sort((a, b) => b.cost - a.cost)
    found.length = Math.min(found.length, 4 * mostCostly)
  }

  list(): CostlyTag[] {
    return this.found.slice(0, mostCostly)
  }
}
