const second = 1000
const minute = 60 * second
const hour = 60 * minute
const day = 24 * hour

/** Distances between two marks of a time axis that a person counts in. */
const steps = [
  ...[1, 2, 5, 10, 20, 50, 100, 200, 500],
  ...[1, 2, 5, 10, 15, 30].map((n) => n * second),
  ...[1, 2, 5, 10, 15, 30].map((n) => n * minute),
  ...[1, 2, 3, 6, 12].map((n) => n * hour),
  ...[1, 2, 7, 14].map((n) => n * day),
]
const months = [1, 2, 3, 6, 12, 24, 60, 120]

export interface TimeMark {
  at: number
  text: string
}

const two = (value: number) => String(value).padStart(2, '0')

/** Where a time axis is marked, by this machine’s clock, and what stands there: at most so many marks. */
export const timeMarks = (from: number, to: number, most: number): TimeMark[] => {
  const step = steps.find((one) => (to - from) / one <= most)
  if (step === undefined) return monthMarks(from, to, most)
  const marks: TimeMark[] = []
  // whole days, hours and minutes are those of the clock on the wall
  let at = step < day ? firstWithin(from, step) : firstDay(from, step)
  while (at <= to) {
    if (at >= from) marks.push({ at, text: markText(at, step) })
    at = step < day ? at + step : nextDay(at, step / day)
    if (step >= hour && step < day) at = onStep(at, step)
  }
  return marks
}

const midnight = (at: number) => new Date(at).setHours(0, 0, 0, 0)

const firstWithin = (from: number, step: number) => {
  const start = midnight(from)
  return start + Math.ceil((from - start) / step) * step
}

/** After the clock was put forward or back, marks stand at whole hours again. */
const onStep = (at: number, step: number) => {
  const date = new Date(at)
  const off = date.getHours() % (step / hour)
  return off === 0 ? at : at - off * hour + (off * hour > step / 2 ? step : 0)
}

const firstDay = (from: number, step: number) => {
  const days = step / day
  const number = Math.floor(midnight(from) / day)
  return nextDay(midnight(from), (days - (number % days)) % days)
}

const nextDay = (at: number, days: number) => {
  const date = new Date(at)
  return new Date(date.getFullYear(), date.getMonth(), date.getDate() + days).getTime()
}

const monthMarks = (from: number, to: number, most: number): TimeMark[] => {
  const count = (to - from) / (30.4 * day)
  const step = months.find((one) => count / one <= most) ?? months.at(-1)!
  const begin = new Date(from)
  const marks: TimeMark[] = []
  for (let month = Math.floor(begin.getMonth() / step) * step; ; month += step) {
    const date = new Date(begin.getFullYear(), month, 1)
    if (date.getTime() > to) return marks
    if (date.getTime() < from) continue
    marks.push({ at: date.getTime(), text: step < 12 ? `${date.getFullYear()}-${two(date.getMonth() + 1)}` : String(date.getFullYear()) })
  }
}

/** A day where a day begins, else the time as far as the step needs it. */
const markText = (at: number, step: number): string => {
  const date = new Date(at)
  if (step >= day || at === midnight(at)) return `${two(date.getMonth() + 1)}-${two(date.getDate())}`
  const time = `${two(date.getHours())}:${two(date.getMinutes())}`
  if (step >= minute) return time
  if (step >= second) return `${time}:${two(date.getSeconds())}`
  return `${two(date.getSeconds())}.${String(date.getMilliseconds()).padStart(3, '0')}`
}
