import { duration } from '../text/duration'
import { valueText } from '../text/number'
import { decadesOff, significantDigits } from './bits'
import type { Form } from './forms'
import type { WordSamples } from './samples'
import { seriesOf, type Series } from './series'
import { momentAt } from './times'

/** What speaks for or against a reading, in words. */
export interface Reason {
  speaks: 'for' | 'against'
  text: string
}

const pro = (text: string): Reason => ({ speaks: 'for', text })
const con = (text: string): Reason => ({ speaks: 'against', text })

export const reasonsFor = (samples: WordSamples, at: number, form: Form): Reason[] => {
  if (form.kind === 'text') return [pro('it can be read, and does not change')]
  if (form.kind === 'unused') return [pro('it never was anything else')]
  const series = seriesOf(samples, at, form)
  if (form.kind === 'bits') return flagReasons(series!)
  if (form.kind === 'cp56' || form.kind === 'calendar' || form.kind.startsWith('unix')) return momentReasons(samples, at, form)
  if (form.kind.startsWith('bcd'))
    return series!.values.some(Number.isNaN) ? [con('not all of it are digits')] : [pro('all of it are digits'), ...howItMoves(series!)]
  return form.kind.startsWith('float') ? floatReasons(series!) : [...wholeReasons(series!), ...howItMoves(series!)]
}

const floatReasons = (series: Series): Reason[] => {
  const { values } = series
  if (values.some((value) => !Number.isFinite(value))) return [con('at times it is no number')]
  const farthest = values.reduce((most, value) => (decadesOff(value) > decadesOff(most) ? value : most), values[0]!)
  const off = decadesOff(farthest)
  if (off > 0)
    return [con(`${valueText(farthest)} is ${Math.abs(farthest) < 1 ? 'next to nothing' : 'out of all measure'}`), ...howItMoves(series)]
  const digits = significantDigits(values[0]!, 7)
  const isRound = values[0] !== 0 && digits <= 3 && values.every((value) => value === values[0])
  return [...(isRound ? [pro('a round number')] : values[0] === 0 ? [] : [pro('of an everyday size')]), ...howItMoves(series)]
}

const wholeReasons = ({ values, size }: Series): Reason[] => {
  const most = values.reduce((highest, value) => Math.max(highest, Math.abs(value)), 0)
  const found: Reason[] = []
  if (size > 16 && most > 0 && most < 65_536) found.push(con('its upper half was never used'))
  if (size > 16 && most > 1e12) found.push(con('out of all measure'))
  const counts = values.length > 2 && values.every((value, i) => i === 0 || value >= values[i - 1]!) && values.at(-1)! > values[0]!
  if (counts) found.push(pro('it only ever counts up'))
  if (size === 16 && most <= 1000) found.push(pro('of an everyday size'))
  return found
}

/** A quantity of a plant does not jump about from one moment to the next. */
const steady = 0.2
const howItMoves = ({ values }: Series): Reason[] => {
  const moves = values.slice(1).flatMap((value, i) => (value === values[i] ? [] : [Math.abs(value - values[i]!)]))
  if (moves.length === 0) return []
  const largest = values.reduce((most, value) => Math.max(most, Math.abs(value)), 0)
  const usual = moves.toSorted((a, b) => a - b)[moves.length >> 1]!
  const jumps = usual / largest
  if (!(jumps > steady)) return [pro(`steady: it moves by about ${valueText(Number(usual.toPrecision(2)))} at a time`)]
  return [
    con(
      `it jumps, such as from ${valueText(Number(values[0]!.toPrecision(4)))} to ${valueText(Number(values.find((value) => value !== values[0])!.toPrecision(4)))}`,
    ),
  ]
}

const flagReasons = ({ values }: Series): Reason[] => {
  const flips = values.slice(1).flatMap((value, i) => (value === values[i] ? [] : [value ^ values[i]!]))
  if (flips.length === 0) return []
  const single = flips.filter((flip) => (flip & (flip - 1)) === 0).length
  return 2 * single > flips.length ? [pro('single bits change')] : [con('many bits change at once')]
}

const year = 365 * 86_400_000
const momentReasons = (samples: WordSamples, at: number, form: Form): Reason[] => {
  const told = samples.times.map((_, i) => momentAt(samples, at, form, i))
  const [first, last] = [told[0]!, told.at(-1)!]
  if (told.includes(null)) return [con('it is no time')]
  const off = Math.abs(last - samples.times.at(-1)!)
  const found =
    off < 86_400_000 ? [pro(`${duration(off)} from this machine’s clock`)] : off > 20 * year ? [con('long ago, or long to come')] : []
  if (samples.times.length < 3) return found
  const went = last - first
  const passed = samples.times.at(-1)! - samples.times[0]!
  if (Math.abs(went - passed) < 2000 && went > 0) return [...found, pro('it goes as our clock does')]
  return went === 0 ? found : [...found, con('it goes otherwise than our clock')]
}
