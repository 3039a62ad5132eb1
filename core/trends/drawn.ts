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
export const drawnAt = (points: readonly Drawn[], x: number): number | null => {
  let [low, high] = [0, points.length]
  while (low < high) {
    const middle = (low + high) >> 1
    if (points[middle]!.x <= x) low = middle + 1
    else high = middle
  }
  return points[low - 1]?.y ?? null
}
