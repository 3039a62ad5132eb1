import { changesOf, choiceBits, decadesOff, floatBits, stepBits, stepsOf, wholeBits } from './bits'
import type { Form, FormKind } from './forms'
import type { WordSamples } from './samples'
import { seriesOf, type Series } from './series'
import { textBits } from './text'
import { timeBits } from './times'

/** How much a form leaves to be said of what was seen, bits: the less, the better it explains it. Infinite: it cannot be. */
export const leftToSay = (samples: WordSamples, at: number, form: Form): number => {
  if (form.kind === 'text') return textBits(samples, at, form)
  if (moments.has(form.kind)) return timeBits(samples, at, form)
  const series = seriesOf(samples, at, form)!
  return (judges[form.kind] ?? judgeWhole)(series, form)
}

const moments = new Set<FormKind>(['unix32', 'unix64', 'cp56', 'calendar'])

type Judge = (series: Series, form: Form) => number

/** Speeds go on, or speeds change little: whatever says less. */
const movingBits = (series: Series): number => {
  const steps = stepsOf(series)
  if (steps.length < 3) return stepBits(steps, series.size)
  return Math.min(stepBits(steps, series.size), 1 + stepBits(changesOf(steps), series.size + 1))
}

const judgeWhole: Judge = (series, { kind }) =>
  wholeBits(series.values[0]!, series.size) +
  movingBits(series) +
  emptyBits(series, 2 ** 16) -
  (kind.startsWith('uint') ? countingBits(series) : 0)

/** A wide number whose upper half was never used could as well be a narrow one. @param perWord how many values a register has. */
const perEmptyHalf = 4
const emptyBits = ({ values, size }: Series, perWord: number): number => {
  if (size === 16) return 0
  const most = values.reduce((highest, value) => Math.max(highest, Math.abs(value)), 0)
  return (most < perWord ? perEmptyHalf : 0) + (size === 64 && most < perWord ** 2 ? 2 * perEmptyHalf : 0)
}

/** What only ever counts up is a meter, and those are wide. */
const countsUp = 4
const countingBits = ({ values, size }: Series): number => {
  const isCounting = size > 16 && values.every((value, i) => i === 0 || value >= values[i - 1]!) && values.at(-1)! > values[0]!
  return isCounting ? countsUp : 0
}

const judgeFloat: Judge = (series) => {
  const mantissa = series.size === 64 ? 52 : 23
  const { values } = series
  if (values.some((value) => !Number.isFinite(value))) return 40 + series.size * values.length
  const worst = values.reduce((most, value) => (decadesOff(value) > decadesOff(most) ? value : most), values[0]!)
  const beyond = decadesOff(worst) - decadesOff(values[0]!)
  return floatBits(values[0]!, mantissa) + 3 * beyond + movingBits(series)
}

const judgeDigits: Judge = (series) => {
  if (series.values.some(Number.isNaN)) return Infinity
  return wholeBits(series.values[0]!, series.size) + movingBits(series) + emptyBits(series, 10_000)
}

/** Flags change one by one, wherever they stand. */
const perFlag = 5
const judgeFlags: Judge = ({ values }) => {
  let [flips, changed] = [0, 0]
  for (let i = 1; i < values.length; i++) {
    const flipped = ones(values[i]! ^ values[i - 1]!)
    flips += flipped
    if (flipped > 0) changed++
  }
  return 2 * Math.min(8, ones(values[0]!)) * 1.5 + 4 + choiceBits(changed, values.length - 1) + perFlag * flips
}
const ones = (word: number): number => {
  let count = 0
  for (let rest = word; rest > 0; rest &= rest - 1) count++
  return count
}

/** What nobody uses: zero, all ones, or the code for “not there”. */
const blanks = new Set([0, 0xffff, 0x8000])
const judgeUnused: Judge = ({ values }) =>
  blanks.has(values[0]!) && values.every((value) => value === values[0]) ? (values[0] === 0 ? 1 : 6) : Infinity

const judges: Partial<Record<FormKind, Judge>> = {
  float32: judgeFloat,
  float64: judgeFloat,
  bcd16: judgeDigits,
  bcd32: judgeDigits,
  bits: judgeFlags,
  unused: judgeUnused,
}
