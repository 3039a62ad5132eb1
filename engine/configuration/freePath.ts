/** A path that nobody has: where it is taken, it gets a number. */
export const freePath = (path: string, taken: ReadonlySet<string>): string => {
  if (!taken.has(path)) return path
  for (let n = 2; ; n++) if (!taken.has(`${path}_${n}`)) return `${path}_${n}`
}
