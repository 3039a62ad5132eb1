import type { WordOrder } from '../modbus/layout'
import type { Form, FormKind } from './forms'
import type { WordSamples } from './samples'

/** A field at every moment: what it reads, and where that stands in the order of all that it could read. */
export interface Series {
  values: number[]
  /**
   * Neighbours in it are the next values that the form can hold; of floats it counts in their last places. In two
   * halves of 32 bits, since a double holds 53.
   */
  highs: Float64Array
  lows: Float64Array
  /** Of one value, bits. */
  size: number
}

const swap = (word: number) => ((word & 0xff) << 8) | (word >>> 8)
const reversesWords = (order: WordOrder | null) => order === 'CDAB' || order === 'DCBA'
const swapsBytes = (order: WordOrder | null) => order === 'BADC' || order === 'DCBA'

/** The words of a field at a moment, the most significant first. */
export const wordsOf = ({ words }: WordSamples, at: number, { order, width }: Form, moment: number): number[] => {
  const found: number[] = []
  for (let i = 0; i < width; i++) {
    const word = words[at + (reversesWords(order) ? width - 1 - i : i)]![moment]!
    found.push(swapsBytes(order) ? swap(word) : word)
  }
  return found
}

const scratch = new DataView(new ArrayBuffer(8))
const half = 2 ** 32

interface Taken {
  value: number
  high: number
  low: number
}

const whole = (high: number, low: number): Taken => ({ value: high * half + low, high, low })

/** Floats lie in the order of their bits; those below zero the other way round (IEEE 754, 5.10). */
const inOrder = (value: number, high: number, low: number): Taken =>
  high >= 0x8000_0000 ? { value, high: -(high - 0x8000_0000), low: -low } : { value, high, low }

const digits = (word: number): number => {
  let value = 0
  for (let shift = 12; shift >= 0; shift -= 4) {
    const digit = (word >>> shift) & 15
    if (digit > 9) return NaN
    value = 10 * value + digit
  }
  return value
}

type Take = (words: readonly number[]) => Taken
const long = (words: readonly number[], at: number) => words[at]! * 65536 + words[at + 1]!

const numbers: Partial<Record<FormKind, Take>> = {
  uint16: ([word]) => whole(0, word!),
  unused: ([word]) => whole(0, word!),
  bits: ([word]) => whole(0, word!),
  int16: ([word]) => whole(0, (word! << 16) >> 16),
  uint32: (words) => whole(0, long(words, 0)),
  unix32: (words) => whole(0, long(words, 0)),
  int32: (words) => whole(0, long(words, 0) | 0),
  uint64: (words) => whole(long(words, 0), long(words, 2)),
  unix64: (words) => whole(long(words, 0), long(words, 2)),
  int64: (words) => whole(long(words, 0) | 0, long(words, 2)),
  float32: (words) => {
    const bits = long(words, 0)
    scratch.setUint32(0, bits)
    const value = scratch.getFloat32(0)
    return bits >= 0x8000_0000 ? { value, high: 0, low: -(bits - 0x8000_0000) } : { value, high: 0, low: bits }
  },
  float64: (words) => {
    const [high, low] = [long(words, 0), long(words, 2)]
    scratch.setUint32(0, high)
    scratch.setUint32(4, low)
    return inOrder(scratch.getFloat64(0), high, low)
  },
  bcd16: ([word]) => whole(0, digits(word!)),
  bcd32: ([high, low]) => whole(0, digits(high!) * 10_000 + digits(low!)),
}

/** Null where the form is no number. */
export const seriesOf = (samples: WordSamples, at: number, form: Form): Series | null => {
  const take = numbers[form.kind]
  if (!take) return null
  const count = samples.times.length
  const series: Series = {
    values: new Array<number>(count),
    highs: new Float64Array(count),
    lows: new Float64Array(count),
    size: 16 * form.width,
  }
  for (let moment = 0; moment < count; moment++) {
    const { value, high, low } = take(wordsOf(samples, at, form, moment))
    series.values[moment] = value
    series.highs[moment] = high
    series.lows[moment] = low
  }
  return series
}
