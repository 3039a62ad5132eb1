import type { Series } from './series'

/**
 * What it takes to say something, in bits: the less a reading leaves to be said, the better it explains the words
 * (minimum description length).
 */

const perDigit = Math.log2(10)

/** A whole number: as itself, by its size, or by its digits, whatever is shortest. @param size bits. */
export const wholeBits = (value: number, size: number): number => {
  const magnitude = Math.abs(value)
  const sign = value < 0 ? 1 : 0
  // a zero says nothing of how wide it is
  if (value === 0) return size === 16 ? 1 : size / 4
  return sign + Math.min(size + 1, 2 * Math.log2(magnitude + 1) + 1, roundBits(magnitude))
}

/** By its digits without the zeros behind them. */
const roundBits = (magnitude: number): number => {
  const [figures, zeros] = figuresOf(magnitude)
  return perDigit * figures + 2 * Math.log2(zeros + 1) + 3
}

/** How many digits it has without the zeros behind them, and how many of those. */
const figuresOf = (magnitude: number): [figures: number, zeros: number] => {
  if (magnitude === 0) return [1, 0]
  const text = magnitude.toFixed(0)
  const figures = text.replace(/0+$/, '').length
  return [figures, text.length - figures]
}

/** Significant decimal digits that a float needs. @param most as many as its type carries. */
export const significantDigits = (value: number, most: number): number => {
  const [mantissa = ''] = value.toExponential(most - 1).split('e')
  return mantissa.replace('-', '').replace('.', '').replace(/0+$/, '').length
}

/** Decades between which most quantities of a plant lie. */
const everyday = { from: -3, to: 6.5 }
const perDecade = 3

/** How far a number lies from what is seen every day, decades. */
export const decadesOff = (value: number): number => {
  if (value === 0) return 0
  const decade = Math.log10(Math.abs(value))
  return Math.max(0, everyday.from - decade, decade - everyday.to)
}

/** A float: sign, size and digits. @param mantissa bits. */
export const floatBits = (value: number, mantissa: number): number => {
  if (!Number.isFinite(value)) return mantissa + 30
  if (value === 0) return mantissa / 4
  const figures = significantDigits(value, mantissa > 30 ? 15 : 7)
  return (value < 0 ? 2 : 0.4) + 5 + perDecade * decadesOff(value) + Math.min(mantissa, perDigit * figures + 2)
}

/** Yes or no, so many times, of which so many were yes. */
export const choiceBits = (yes: number, all: number): number => {
  if (all === 0 || yes === 0 || yes === all) return 0.5
  const p = yes / all
  return all * (-p * Math.log2(p) - (1 - p) * Math.log2(1 - p)) + 0.5 * Math.log2(all)
}

const half = 2 ** 32

/** Steps from one moment to the next. */
export const stepsOf = ({ highs, lows }: Series): Float64Array => {
  const steps = new Float64Array(Math.max(0, highs.length - 1))
  for (let i = 0; i < steps.length; i++) steps[i] = (highs[i + 1]! - highs[i]!) * half + (lows[i + 1]! - lows[i]!)
  return steps
}

/** How steps change from one to the next. */
export const changesOf = (steps: Float64Array): Float64Array => {
  const changes = new Float64Array(Math.max(0, steps.length - 1))
  for (let i = 0; i < changes.length; i++) changes[i] = steps[i + 1]! - steps[i]!
  return changes
}

/** Which of the steps there are, how large, and which way. @param size of one value, bits: no step takes more. */
export const stepBits = (steps: Float64Array, size: number): number => {
  const sizes = new Float64Array(steps.length)
  let [count, up, down] = [0, false, false]
  for (const step of steps) {
    if (step === 0) continue
    sizes[count++] = Math.abs(step)
    if (step > 0) up = true
    else down = true
  }
  const moved = choiceBits(count, steps.length)
  if (count === 0) return moved
  const present = sizes.subarray(0, count).sort()
  const usual = Math.max(1, present[count >> 1]!)
  const base = Math.log2(Math.E * usual) + (up && down ? 1 : 0.1)
  let bits = moved + 4
  for (const one of present) bits += Math.min(size, base + (one > usual ? 1.5 * Math.log2(one / usual) : 0))
  return bits
}
