const lists = new Map<number, string[]>()

/** `1`, `2`, and so on; the same list for the same number. */
export const numberedTo = (most: number): string[] => {
  const known = lists.get(most) ?? Array.from({ length: most }, (_, i) => String(i + 1))
  lists.set(most, known)
  return known
}

/** As many rows as there are numbers: those that nothing came for hold nothing. */
export const padded = <T>(rows: readonly (readonly T[])[], most: number, width: number): (readonly (T | undefined)[])[] =>
  Array.from({ length: most }, (_, i) => rows[i] ?? Array.from<undefined>({ length: width }))
