import { moment } from '../messages/moment'
import { asNumber, FormulaProblem, type FormulaValue } from './value'
import type { FormulaFunction } from './functions'

/** Times in formulas: Unix milliseconds, told in a time zone of the IANA database, UTC where none is given. */

const wallParts = ['year', 'month', 'day', 'hour', 'minute', 'second'] as const
type Wall = Record<(typeof wallParts)[number], number> & { millisecond: number; weekday: number }

const clocks = new Map<string, Intl.DateTimeFormat>()
const mostClocks = 100

const clockOf = (zone: string): Intl.DateTimeFormat => {
  const known = clocks.get(zone)
  if (known) return known
  try {
    const numeric = Object.fromEntries(wallParts.map((part) => [part, 'numeric']))
    const clock = new Intl.DateTimeFormat('en-GB', { ...numeric, timeZone: zone, hourCycle: 'h23', calendar: 'gregory' })
    if (clocks.size >= mostClocks) clocks.clear()
    clocks.set(zone, clock)
    return clock
  } catch {
    throw new FormulaProblem(`“${zone.slice(0, 40)}” is no time zone, as Europe/Oslo is one`)
  }
}

const wallOf = (time: number, zone: string): Wall => {
  const date = new Date(time)
  if (Number.isNaN(date.getTime())) throw new FormulaProblem(`${time} is no time`)
  const told = Object.fromEntries(
    clockOf(zone)
      .formatToParts(date)
      .map(({ type, value }) => [type, Number(value)]),
  ) as Omit<Wall, 'weekday'>
  const { year, month, day } = told
  return { ...told, millisecond: date.getUTCMilliseconds(), weekday: ((new Date(Date.UTC(year, month - 1, day)).getUTCDay() + 6) % 7) + 1 }
}

const zoneOf = (value: FormulaValue | undefined) => (value === undefined ? 'UTC' : String(value))

const partNames = [...wallParts, 'millisecond', 'weekday'] as const

/** Letters of Unicode LDML (UTS 35, Date Field Symbol Table), as far as they are numbers. */
const letters: Record<string, keyof Wall> = { y: 'year', M: 'month', d: 'day', H: 'hour', m: 'minute', s: 'second', S: 'millisecond' }

const written = (wall: Wall, pattern: string): string =>
  pattern.replace(/'([^']*)'|([yMdHmsS])\2*/g, (run, quoted: string | undefined, letter: string | undefined) => {
    if (letter === undefined) return quoted === '' ? "'" : quoted!
    const digits = String(wall[letters[letter]!]).padStart(letter === 'S' ? 3 : run.length, '0')
    if (letter === 'S') return digits.slice(0, run.length).padEnd(run.length, '0')
    return letter === 'y' && run.length === 2 ? digits.slice(-2) : digits
  })

export const timeFunctions: Record<string, FormulaFunction> = {
  moment: {
    ...{ form: 'moment(text)', about: 'the time that a text or a number holds: ISO 8601, Unix seconds or milliseconds', least: 1, most: 1 },
    run: ([x]) => {
      const time = moment(x)
      if (time === null) throw new FormulaProblem(`“${String(x).slice(0, 40)}” is no time`)
      return time
    },
  },
  timeText: {
    ...{ form: 'timeText(t, "yyyy-MM-dd HH:mm:ss", "Europe/Oslo")', about: 'a time as text; UTC if no zone is given', least: 2, most: 3 },
    run: ([t, pattern, zone]) => written(wallOf(asNumber(t!), zoneOf(zone)), String(pattern).slice(0, 100)),
  },
  timePart: {
    ...{ form: 'timePart(t, "hour", "Europe/Oslo")', about: `of a time: ${partNames.join(', ')} (Monday is 1)`, least: 2, most: 3 },
    run: ([t, part, zone]) => {
      const name = partNames.find((one) => one === part)
      if (!name) throw new FormulaProblem(`“${String(part).slice(0, 40)}” is no part of a time: ${partNames.join(', ')}`)
      return wallOf(asNumber(t!), zoneOf(zone))[name]
    },
  },
}
