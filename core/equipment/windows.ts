import { offsetAt } from './zone'

/** Windows of time over which values are rolled up: one after the other, without holes, by the clock of the site. */

export const windowUnits = ['second', 'minute', 'hour', 'day', 'week', 'month', 'quarter', 'year'] as const
export type WindowUnit = (typeof windowUnits)[number]
export interface Window {
  count: number
  unit: WindowUnit
}

const hourMs = 3_600_000
const dayMs = 24 * hourMs
const lengths: Partial<Record<WindowUnit, { ms: number; whole: number }>> = {
  second: { ms: 1000, whole: 60 },
  minute: { ms: 60_000, whole: 60 },
  hour: { ms: hourMs, whole: 24 },
}

/** What is wrong with a window; null: nothing. Windows begin with the minute, the hour or the day that they divide. */
export const windowProblem = ({ count, unit }: Window): string | null => {
  if (!Number.isInteger(count) || count < 1) return 'A window is at least one second long.'
  const divides = lengths[unit]
  if (!divides) return count === 1 ? null : `There is one window for each ${unit}: 1 ${unit}.`
  if (divides.whole % count !== 0 || count === divides.whole)
    return `Windows divide ${unit === 'hour' ? 'a day' : unit === 'minute' ? 'an hour' : 'a minute'} evenly: ${evenly(divides.whole)} ${unit}s.`
  return null
}

const evenly = (whole: number) =>
  Array.from({ length: whole - 1 }, (_, i) => i + 1)
    .filter((count) => whole % count === 0)
    .join(', ')

/** As in `15 min`, `1 h`, `day`. */
export const windowText = ({ count, unit }: Window): string => {
  const short: Partial<Record<WindowUnit, string>> = { second: 's', minute: 'min', hour: 'h' }
  return short[unit] ? `${count} ${short[unit]}` : unit
}

/** How long windows are at least, ms; those of days and more are longer or shorter by the clock. */
export const leastLength = ({ count, unit }: Window): number => count * (lengths[unit]?.ms ?? dayMs - hourMs)

/** A stretch of time: from, up to but without; Unix milliseconds. */
export interface Stretch {
  from: number
  to: number
}

/**
 * The window that a moment falls into. Up to an hour long they have one length; longer ones begin and end by the clock on the
 * wall, so that over a change of the clock a day has 23 or 25 hours. A wall time that comes twice means the earlier, one that
 * is skipped the moment of the skip.
 */
export const windowAt = ({ count, unit }: Window, at: number, zone: string): Stretch => {
  const length = lengths[unit]
  const ms = length && length.ms * count
  if (ms !== undefined && ms <= hourMs) {
    const offset = offsetAt(zone, at)
    const from = Math.floor((at + offset) / ms) * ms - offset
    return { from, to: from + ms }
  }
  const wall = new Date(at + offsetAt(zone, at))
  let step = 0
  for (;;) {
    const [from, to] = [wallStart(wall, { count, unit }, step), wallStart(wall, { count, unit }, step + 1)].map((local) =>
      instantOf(zone, local),
    )
    // a wall time that comes twice may belong to the window after
    if (at >= to!) step++
    else if (at < from!) step--
    else return { from: from!, to: to! }
  }
}

/**
 * The borders of all windows that a span touches, in their order; one more than there are windows.
 * @returns null: there are more than `most`
 */
export const windowsBetween = (window: Window, from: number, to: number, zone: string, most: number): number[] | null => {
  const borders = bordersFrom(window, from, to, zone, most)
  return borders.at(-1)! < to ? null : borders
}

/** The borders of as many windows as touch a span, in their order, at most `most` windows from its beginning on. */
export const bordersFrom = (window: Window, from: number, to: number, zone: string, most: number): number[] => {
  const borders = [windowAt(window, from, zone).from]
  while (borders.at(-1)! < to && borders.length <= most) borders.push(windowAt(window, borders.at(-1)!, zone).to)
  return borders
}

/** When the window begins that is so many before the one that begins at a moment. */
export const windowsBefore = (window: Window, begin: number, count: number, zone: string): number => {
  let at = begin
  for (let i = 0; i < count; i++) at = windowAt(window, at - 1, zone).from
  return at
}

/** When the window ends that is so many after the one that ends at a moment. */
export const windowsAfter = (window: Window, end: number, count: number, zone: string): number => {
  let at = end
  for (let i = 0; i < count; i++) at = windowAt(window, at, zone).to
  return at
}

/** The wall time at which a window begins, `steps` windows after the one that a wall time falls into. */
const wallStart = (wall: Date, { count, unit }: Window, steps: number): number => {
  const [year, month, day] = [wall.getUTCFullYear(), wall.getUTCMonth(), wall.getUTCDate()]
  switch (unit) {
    case 'month':
      return Date.UTC(year, month + steps)
    case 'quarter':
      return Date.UTC(year, Math.floor(month / 3) * 3 + 3 * steps)
    case 'year':
      return Date.UTC(year + steps, 0)
    case 'week':
      // weeks begin on Mondays (ISO 8601)
      return Date.UTC(year, month, day - ((wall.getUTCDay() + 6) % 7) + 7 * steps)
    case 'day':
      return Date.UTC(year, month, day + steps)
    default: {
      const midnight = Date.UTC(year, month, day)
      const ms = lengths[unit]!.ms * count
      const inDay = Math.floor((wall.getTime() - midnight) / ms) + steps
      const perDay = dayMs / ms
      return Date.UTC(year, month, day + Math.floor(inDay / perDay)) + (((inDay % perDay) + perDay) % perDay) * ms
    }
  }
}

/** The moment of a wall time. */
const instantOf = (zone: string, local: number): number => {
  const [before, after] = [offsetAt(zone, local - dayMs), offsetAt(zone, local + dayMs)]
  const valid = [local - before, local - after].filter((at) => at + offsetAt(zone, at) === local)
  // one that is skipped: what the clock showed went on until the skip
  return valid.length > 0 ? Math.min(...valid) : local - before
}
