/**
 * Read planning: which requests fetch a set of points that lie in one row of elements (registers or bits of a table,
 * bytes of a block) and share an interval, for the least cost. A request has a fixed cost (the turnaround of the device and the line) and a cost
 * for each element it carries, so reading across a small gap is cheaper than asking twice.
 */
export interface PlanItem {
  /** Zero-based offset of the first element. */
  offset: number
  /** Elements covered. */
  count: number
}

export interface PlanLimits {
  /** Most elements in one request. */
  most: number
  /** What one more request costs, in elements: gaps up to this are read across. */
  requestCost: number
  /** Ranges, both ends included, that must never be part of a request. */
  holes: readonly { from: number; to: number }[]
  /** Offsets that no request may read across; points that themselves span one are let through. */
  fences: readonly number[]
  /** The last offset that there can be. */
  last: number
}

export interface Block<T extends PlanItem = PlanItem> {
  offset: number
  count: number
  items: T[]
}

export interface Plan<T extends PlanItem = PlanItem> {
  blocks: Block<T>[]
  /** Points that no permitted request can fetch, with the reason. */
  refused: { item: T; reason: 'hole' | 'too-long' | 'past-end' }[]
}

/**
 * The cheapest partition of the points into requests. Every point that can be fetched is in
 * exactly one block. Dynamic programming over the points in offset order: each can only share a
 * request with the few that lie within one request's length before it, so it stays linear.
 */
export const planReads = <T extends PlanItem>(items: readonly T[], limits: PlanLimits): Plan<T> => {
  const refused: Plan<T>['refused'] = []
  const points: T[] = []
  for (const item of items) {
    const reason = refusal(item, limits)
    if (reason) refused.push({ item, reason })
    else points.push(item)
  }
  points.sort((a, b) => a.offset - b.offset || a.count - b.count)
  return { blocks: cheapestBlocks(points, limits), refused }
}

/**
 * The cheapest partition where requests have no length of their own: a cut at each gap that is longer than a request costs,
 * and at each fence that no point spans.
 */
export const runsOf = <T extends PlanItem>(items: readonly T[], { requestCost, fences }: Pick<PlanLimits, 'requestCost' | 'fences'>) => {
  const points = [...items].sort((a, b) => a.offset - b.offset || a.count - b.count)
  const barriers = [...fences].sort((a, b) => a - b)
  const runs: Block<T>[] = []
  for (const item of points) {
    const run = runs.at(-1)
    const end = run ? run.offset + run.count : 0
    const isApart = !run || item.offset - end > requestCost || (item.offset >= end && nextAfter(barriers, end - 1) <= item.offset)
    if (isApart) runs.push({ offset: item.offset, count: item.count, items: [item] })
    else {
      run.items.push(item)
      run.count = Math.max(end, endOf(item)) - run.offset
    }
  }
  return runs
}

const refusal = (item: PlanItem, limits: PlanLimits) => {
  if (item.count > limits.most) return 'too-long' as const
  if (item.offset + item.count - 1 > limits.last) return 'past-end' as const
  return crossesHole(item.offset, endOf(item), limits) ? ('hole' as const) : null
}

const endOf = (item: PlanItem) => item.offset + item.count

const crossesHole = (start: number, end: number, limits: PlanLimits) => limits.holes.some((hole) => hole.from < end && hole.to >= start)

const cheapestBlocks = <T extends PlanItem>(points: T[], limits: PlanLimits): Block<T>[] => {
  const spans = spansOf(points)
  const barriers = sortedBarriers(limits)
  const cost = new Float64Array(points.length + 1).fill(Infinity)
  const firstOfBlock = new Int32Array(points.length + 1)
  cost[0] = 0
  for (let first = 0; first < points.length; first++)
    if (cost[first] !== Infinity) extendFrom(first, spans, limits, barriers, cost, firstOfBlock)
  return cutBlocks(points, firstOfBlock)
}

/** First element of each point, and the one behind its last: arrays, since each is looked at many times. */
interface Spans {
  starts: Int32Array
  ends: Int32Array
}

const spansOf = (points: readonly PlanItem[]): Spans => {
  const [starts, ends] = [new Int32Array(points.length), new Int32Array(points.length)]
  for (const [i, point] of points.entries()) {
    starts[i] = point.offset
    ends[i] = endOf(point)
  }
  return { starts, ends }
}

/** Tries every block that starts with point `first`, and notes where it beats what was known. */
const extendFrom = (first: number, spans: Spans, limits: PlanLimits, barriers: number[], cost: Float64Array, firstOfBlock: Int32Array) => {
  const { starts, ends } = spans
  const start = starts[first]!
  const furthest = start + limits.most
  const fence = nextAfter(barriers, start)
  const fixed = cost[first]! + limits.requestCost - start
  let end = start
  for (let last = first; last < ends.length; last++) {
    if (ends[last]! > end) end = ends[last]!
    if (end > furthest) return
    if (end > fence && last > first) return
    if (isWithinRun(last, end, spans) && ends[last + 1]! <= Math.min(furthest, fence)) continue
    if (fixed + end < cost[last + 1]!) {
      cost[last + 1] = fixed + end
      firstOfBlock[last + 1] = first
    }
  }
}

/**
 * Whether the next point follows without a gap, and shares nothing with the one after it. A cut there is never better
 * than one point later, where that fits: this block grows by what the next one shrinks. So runs without gaps, which
 * most devices have, are cut only where a request is full.
 */
const isWithinRun = (last: number, end: number, { starts, ends }: Spans) =>
  last + 1 < ends.length && starts[last + 1] === end && (last + 2 >= ends.length || starts[last + 2]! >= ends[last + 1]!)

/** A hole acts as a fence at its first element: no block may reach past it. */
const sortedBarriers = (limits: PlanLimits): number[] => [...limits.fences, ...limits.holes.map((hole) => hole.from)].sort((a, b) => a - b)

const nextAfter = (sorted: number[], offset: number): number => {
  let low = 0
  let high = sorted.length
  while (low < high) {
    const middle = (low + high) >> 1
    if (sorted[middle]! > offset) high = middle
    else low = middle + 1
  }
  return sorted[low] ?? Infinity
}

const cutBlocks = <T extends PlanItem>(points: T[], firstOfBlock: Int32Array): Block<T>[] => {
  const blocks: Block<T>[] = []
  for (let end = points.length; end > 0; end = firstOfBlock[end]!) {
    const items = points.slice(firstOfBlock[end]!, end)
    const offset = items[0]!.offset
    blocks.push({ offset, count: lastEndOf(items) - offset, items })
  }
  return blocks.reverse()
}

const lastEndOf = (items: readonly PlanItem[]) => items.reduce((end, item) => Math.max(end, endOf(item)), 0)

/**
 * After a device refused a block: where to fence it so that the next round finds the culprit.
 * First at every gap (the likely cause is an address nobody asked for); without gaps in the
 * middle, so that one bad point is cornered in a few rounds. Empty when it stands alone.
 */
export const fencesAround = (block: Block): number[] => {
  const starts = gapStarts(block)
  if (starts.length > 0) return starts
  const offsets = [...new Set(block.items.map((item) => item.offset))].sort((a, b) => a - b)
  return offsets.length < 2 ? [] : [offsets[offsets.length >> 1]!]
}

/** Offsets at which points resume after elements that nobody asked for. */
const gapStarts = (block: Block): number[] => {
  const starts: number[] = []
  let end = block.offset
  for (const item of [...block.items].sort((a, b) => a.offset - b.offset)) {
    if (item.offset > end) starts.push(item.offset)
    end = Math.max(end, endOf(item))
  }
  return starts
}
