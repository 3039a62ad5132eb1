/** The way down to one place: names and indices (RFC 9535, 2.3.5.1: singular queries). */
export type Way = readonly (string | number)[]

const step =
  /\.([A-Za-z_\u0080-\ud7ff\ue000-\uffff][A-Za-z0-9_\u0080-\ud7ff\ue000-\uffff]*)|\['([^'\\\p{Cc}]*)'\]|\["([^"\\\p{Cc}]*)"\]|\[(0|[1-9]\d{0,8})\]/uy

/** The way of a path that has been found right; null: it is to be looked for, as it may lead to many places or is written unusually. */
export const wayOf = (path: string): Way | null => {
  if (!path.startsWith('$')) return null
  const way: (string | number)[] = []
  step.lastIndex = 1
  while (step.lastIndex < path.length) {
    const match = step.exec(path)
    if (!match) return null
    const [, short, single, double, index] = match
    way.push(index === undefined ? (short ?? single ?? double)! : Number(index))
  }
  return way
}

/** Where nothing is. */
export const nowhere = Symbol('nowhere')

/** What lies at the end of a way: names lead into objects only, indices into lists only. */
export const atWay = (value: unknown, way: Way): unknown => {
  let at = value
  for (const part of way) {
    if (typeof at !== 'object' || at === null || Array.isArray(at) !== (typeof part === 'number') || !Object.hasOwn(at, part))
      return nowhere
    at = (at as Record<string | number, unknown>)[part]
  }
  return at
}
