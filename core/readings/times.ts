import { stepBits } from './bits'
import type { Form } from './forms'
import type { WordSamples } from './samples'
import { wordsOf } from './series'

const [from, to] = [Date.UTC(2000, 0), Date.UTC(2100, 0)]

/**
 * The moment that a field tells, Unix milliseconds; null: it is none. Seconds or milliseconds since 1970; seven octets
 * with the binary time of IEC 60870-5-4, 6.8; or a register each for year, month, day, hour, minute and second.
 */
export const momentAt = (samples: WordSamples, at: number, form: Form, moment: number): number | null => {
  const told = tellers[form.kind]?.(wordsOf(samples, at, form, moment)) ?? NaN
  return told >= from && told < to ? told : null
}

const long = (high: number, low: number) => high * 65536 + low

const tellers: Partial<Record<Form['kind'], (words: readonly number[]) => number>> = {
  unix32: ([high, low]) => 1000 * long(high!, low!),
  unix64: ([a, b, c, d]) => long(a!, b!) * 2 ** 32 + long(c!, d!),
  cp56: (words) => {
    const [low, high, minute, hour, day, month, year] = words.flatMap((word) => [word >>> 8, word & 0xff]) as [
      ...[number, number, number, number, number, number, number],
    ]
    const isFilled = (words[3]! & 0xff) !== 0 || year > 99 || month > 15
    return isFilled ? NaN : dateOf(2000 + year, month, day & 0x1f, hour & 0x1f, minute & 0x3f, (low + 256 * high) / 1000)
  },
  calendar: (words) => {
    const [year, month, day, hour, minute, second] = words as [number, number, number, number, number, number]
    return dateOf(year < 100 ? 2000 + year : year, month, day, hour, minute, second)
  },
}

/** NaN where there is no such moment. */
const dateOf = (year: number, month: number, day: number, hour: number, minute: number, second: number): number => {
  const fits = month >= 1 && month <= 12 && day >= 1 && day <= 31 && hour < 24 && minute < 60 && second < 60 && year >= 2000 && year < 2100
  return fits ? Date.UTC(year, month - 1, day, hour, minute) + 1000 * second : NaN
}

const day = 86_400_000

/**
 * What it takes to say the moments of a field, bits: near to ours, and going on as our clock does. Infinite: they are
 * none, or they move, and from another time than ours.
 */
export const timeBits = (samples: WordSamples, at: number, form: Form): number => {
  const { times } = samples
  const resolution = form.kind === 'unix32' || form.kind === 'calendar' ? 1000 : 1
  const told: number[] = []
  for (let i = 0; i < times.length; i++) {
    const moment = momentAt(samples, at, form, i)
    if (moment === null) return Infinity
    told.push(moment)
  }
  const off = Math.abs(told[0]! - times[0]!)
  if (told.every((moment) => moment === told[0])) return startBits(off, resolution) + (off < day ? times.length : 0)
  if (off > 400 * day) return Infinity
  const late = Float64Array.from(times.slice(1), (time, i) => Math.round((told[i + 1]! - told[i]! - (time - times[i]!)) / resolution))
  return startBits(off, resolution) + stepBits(late, 33)
}

/** As many bits as there are moments at least as near to ours; a clock is off by less than a day, or else set by nobody. */
const startBits = (off: number, resolution: number): number => {
  const span = off < day ? day : off < 400 * day ? 400 * day : to - from
  return Math.log2((2 * span) / resolution) + (span === day ? 1 : 3)
}
