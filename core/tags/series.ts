/**
 * A text with numbers in braces, counted up: `module_{01}/level` gives `module_01/level`, `module_02/level` …
 * The number in the braces is the first one, and as wide as it is written.
 */
export const countedUp = (pattern: string, index: number, step = 1): string =>
  pattern.replace(/\{(\d{1,9})\}/g, (_, first: string) => String(Number(first) + index * step).padStart(first.length, '0'))

/** Whether anything in it is counted. */
export const isCounted = (pattern: string): boolean => /\{\d{1,9}\}/.test(pattern)

/** A path as the pattern of a series that begins with it: its last number is counted. */
export const patternOf = (path: string): string => (/\d/.test(path) ? path.replace(/(\d{1,9})(?!.*\d)/, '{$1}') : `${path}_{1}`)
