/** Both sides have the same tags. */
export const tagCount = 10_000
export const valueOf = (i: number) => Math.round(i * 7.31 * 100) / 100
