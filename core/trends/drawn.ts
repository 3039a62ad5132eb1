import type { Run } from '../history/runs'

export interface Drawn {
  x: number
  y: number | null
}

/**
 * The points of a line. The last value holds on until `until`; a value that is drawn in steps also until the gap after it.
 *
 * @param shift by how much later it is drawn than it was
 */
export const drawnPoints = (
  { at, values }: { at: readonly number[]; values: readonly (number | null)[] },
  inSteps: boolean,
  until: number,
  shift = 0,
): Drawn[] => {
  const points: Drawn[] = []
  let held: number | null = null
  for (const [i, time] of at.entries()) {
    const y = values[i]!
    if (y === null && inSteps && held !== null) points.push({ x: time + shift, y: held })
    points.push({ x: time + shift, y })
    held = y
  }
  const last = points.at(-1)
  if (last && held !== null && last.x < until + shift) points.push({ x: until + shift, y: held })
  return points
}

/** What a line has at a moment: the last point that is no later; null: nothing, or nothing good. */
export const drawnAt = (points: readonly Drawn[], x: number): number | null => lastUntil(points, (point) => point.x <= x)?.y ?? null

/** The run that a moment falls into. */
export const runAt = (runs: readonly Run[], x: number): Run | null => {
  const run = lastUntil(runs, ({ from }) => from <= x)
  return run && x < run.to ? run : null
}

/** What is drawn of a run. */
export const runText = ({ text, several }: Run): string => (several > 0 ? `${several} texts, last “${text}”` : text)

/** The last of some that are in order and of which the first ones are so. */
const lastUntil = <T>(all: readonly T[], isSo: (one: T) => boolean): T | undefined => {
  let [low, high] = [0, all.length]
  while (low < high) {
    const middle = (low + high) >> 1
    if (isSo(all[middle]!)) low = middle + 1
    else high = middle
  }
  return all[low - 1]
}
