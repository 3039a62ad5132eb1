/** The first of these moments; null: there is none. */
export const earliest = (moments: readonly (number | null)[]): number | null => {
  const known = moments.filter((moment) => moment !== null)
  return known.length > 0 ? Math.min(...known) : null
}
