/** How full a disk is, what that means, and when it will be short. */

export interface DiskFacts {
  bytes: number
  freeBytes: number
}

/** low: somebody should see to it. short: what is recorded gives way. critical: nothing is recorded. */
export const stages = ['well', 'low', 'short', 'critical'] as const
export type Stage = (typeof stages)[number]

const [mb, gb] = [1e6, 1e9]

/** Free bytes below which a stage begins: a share of the disk, not more than is of use on a large one, nor less than a small one can give. */
const marks: Record<Exclude<Stage, 'well'>, { share: number; least: number; most: number; leastShare: number }> = {
  low: { share: 0.15, least: 2 * gb, most: 50 * gb, leastShare: 0.25 },
  short: { share: 0.05, least: gb, most: 10 * gb, leastShare: 0.12 },
  critical: { share: 0.02, least: 300 * mb, most: 3 * gb, leastShare: 0.05 },
}
/** A stage ends with so much more free than it began with: it does not come and go. */
const backAt = 1.2

export const markOf = (stage: Exclude<Stage, 'well'>, bytes: number): number => {
  const { share, least, most, leastShare } = marks[stage]
  return Math.max(Math.min(share * bytes, most), Math.min(least, leastShare * bytes))
}

export const stageOf = ({ bytes, freeBytes }: DiskFacts, before: Stage = 'well'): Stage => {
  for (const stage of ['critical', 'short', 'low'] as const) {
    const isIn = stages.indexOf(before) >= stages.indexOf(stage)
    if (freeBytes < markOf(stage, bytes) * (isIn ? backAt : 1)) return stage
  }
  return 'well'
}

/** One look at a disk: Unix ms, free bytes. */
export interface Look {
  at: number
  freeBytes: number
}

const dayMs = 86_400_000
/** By less than this nothing is foretold. */
const leastLooks = 12
const leastSpanMs = dayMs

/**
 * When the disk is short at the pace of these looks (a line through them by least squares), Unix ms; null: it does not fill, or that is not
 * known yet.
 */
export const shortAt = (looks: readonly Look[], { bytes, freeBytes }: DiskFacts): number | null => {
  const [first, last] = [looks[0], looks.at(-1)]
  if (!first || !last || looks.length < leastLooks || last.at - first.at < leastSpanMs) return null
  const mean = (of: (look: Look) => number) => looks.reduce((sum, look) => sum + of(look), 0) / looks.length
  const [at, free] = [mean((look) => look.at), mean((look) => look.freeBytes)]
  const perMs = mean((look) => (look.at - at) * (look.freeBytes - free)) / mean((look) => (look.at - at) ** 2)
  if (!(perMs < 0)) return null
  return last.at + Math.max(0, freeBytes - markOf('short', bytes)) / -perMs
}
