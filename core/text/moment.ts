const two = (n: number) => String(n).padStart(2, '0')

type Moment = string | number | Date

/** The one way in which moments are shown: ISO dates and 24 hours, on this machine's clock. A moment that is none is a dash. */
const shown = (at: Moment, write: (t: Date) => string): string => {
  const t = new Date(at)
  return Number.isNaN(t.getTime()) ? '—' : write(t)
}
const day = (t: Date) => `${t.getFullYear()}-${two(t.getMonth() + 1)}-${two(t.getDate())}`
const time = (t: Date) => `${two(t.getHours())}:${two(t.getMinutes())}:${two(t.getSeconds())}`

/** As in `2026-11-25`. */
export const dayText = (at: Moment): string => shown(at, day)
/** As in `2026-11-25 14:06:45`. */
export const momentText = (at: Moment): string => shown(at, (t) => `${day(t)} ${time(t)}`)
/** As in `14:06:45.078`, where the day is plain. */
export const clockText = (at: Moment): string => shown(at, (t) => `${time(t)}.${String(t.getMilliseconds()).padStart(3, '0')}`)

/** As in `14:06:45.002 118`: to the microsecond. @param at Unix ms, with a fraction */
export const microText = (at: number): string => `${clockText(at)} ${String(Math.floor(at * 1000) % 1000).padStart(3, '0')}`

/** The zone of this machine's clock, as in `Europe/Oslo, UTC+1`. */
export const zoneText = (now: Date = new Date()): string => {
  const minutes = -now.getTimezoneOffset()
  const hours = Math.floor(Math.abs(minutes) / 60)
  const rest = Math.abs(minutes) % 60
  const offset = minutes === 0 ? 'UTC' : `UTC${minutes < 0 ? '−' : '+'}${hours}${rest ? `:${two(rest)}` : ''}`
  const { timeZone } = new Intl.DateTimeFormat().resolvedOptions()
  return timeZone && timeZone !== 'UTC' ? `${timeZone}, ${offset}` : offset
}
