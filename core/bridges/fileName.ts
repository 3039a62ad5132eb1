/** `meters.csv` with `2026-11-26` is `meters-2026-11-26.csv`. */
export const withSuffix = (name: string, suffix: string): string => {
  const at = name.lastIndexOf('.')
  return at > name.lastIndexOf('/') + 1 ? `${name.slice(0, at)}-${suffix}${name.slice(at)}` : `${name}-${suffix}`
}
