/** `engineering = raw × gain + offset`, and the inverse on write. */
export interface GainScaling {
  kind?: 'gain' | undefined
  gain: number
  offset: number
}

/** Which ends a value stops at. */
export const clamps = ['none', 'low', 'high', 'both'] as const
export type Clamp = (typeof clamps)[number]

export const curves = ['linear', 'root'] as const
export type Curve = (typeof curves)[number]

/**
 * From a range of raw values to one of engineering values: `share = (raw − raw.low) / (raw.high − raw.low)`, stopped at its ends
 * where that is asked for, its root taken where the device measures a difference of pressure, then
 * `engineering = to.low + share × (to.high − to.low)`, and its sign turned around where that is asked for.
 * Below zero the root goes on as it does above, with the other sign, so that every raw value has one value and back.
 */
export interface RangeScaling {
  kind: 'ranges'
  raw: Ends
  to: Ends
  curve: Curve
  clamp: Clamp
  inverted: boolean
}

export interface Ends {
  low: number
  high: number
}

export type Scaling = GainScaling | RangeScaling

export const isRanges = (scaling: Scaling): scaling is RangeScaling => scaling.kind === 'ranges'

/** The engineering value of a raw one. */
export const forward = (raw: number, scaling: Scaling): number => {
  if (!isRanges(scaling)) return withoutBinaryDust(raw * scaling.gain + scaling.offset)
  const { raw: from, to, curve, clamp, inverted } = scaling
  const share = stopped((raw - from.low) / (from.high - from.low), clamp)
  const value = withoutBinaryDust(to.low + (curve === 'root' ? signedRoot(share) : share) * (to.high - to.low))
  return inverted ? 0 - value : value
}

/** The raw value of an engineering one; null where none gives it: it lies beyond an end at which values stop. */
export const backward = (value: number, scaling: Scaling): number | null => {
  if (!isRanges(scaling)) return withoutBinaryDust((value - scaling.offset) / scaling.gain)
  const { raw: from, to, curve, clamp, inverted } = scaling
  const share = ((inverted ? -value : value) - to.low) / (to.high - to.low)
  if (stopped(share, clamp) !== share && !Number.isNaN(share)) return null
  return withoutBinaryDust(from.low + (curve === 'root' ? signedSquare(share) : share) * (from.high - from.low))
}

const stopped = (share: number, clamp: Clamp): number => {
  if (share < 0 && (clamp === 'low' || clamp === 'both')) return 0
  return share > 1 && (clamp === 'high' || clamp === 'both') ? 1 : share
}

const signedRoot = (share: number) => Math.sign(share) * Math.sqrt(Math.abs(share))
const signedSquare = (share: number) => Math.sign(share) * share * share

/**
 * 703 × 0.1 is 70.30000000000001 in binary. Rounding to 15 significant digits, which every
 * double carries, gives the number that the device's maker meant.
 */
const withoutBinaryDust = (value: number) => (Number.isFinite(value) ? Number(value.toPrecision(15)) : value)

/** The same scaling, with what it gives in another unit: `other = value × factor + offset`. */
export const inOtherUnit = (scaling: Scaling | null, { factor, offset }: { factor: number; offset: number }): Scaling => {
  if (!scaling || !isRanges(scaling)) {
    const { gain, offset: own } = scaling ?? { gain: 1, offset: 0 }
    return { gain: gain * factor, offset: withoutBinaryDust(own * factor + offset) }
  }
  // a sign that is turned around is so before the unit changes
  const shift = scaling.inverted ? -offset : offset
  const end = (value: number) => withoutBinaryDust(value * factor + shift)
  return { ...scaling, to: { low: end(scaling.to.low), high: end(scaling.to.high) } }
}

/** The engineering values that can be written, where that is not all of them. */
export const writable = ({ to, clamp, inverted }: RangeScaling): Ends => {
  const [low, high] = to.low < to.high ? [to.low, to.high] : [to.high, to.low]
  const [stopsLow, stopsHigh] = to.low < to.high ? [clamp === 'low', clamp === 'high'] : [clamp === 'high', clamp === 'low']
  const ends = { low: stopsLow || clamp === 'both' ? low : -Infinity, high: stopsHigh || clamp === 'both' ? high : Infinity }
  return inverted ? { low: 0 - ends.high, high: 0 - ends.low } : ends
}

/** As lists and the way of a value show it. */
export const scalingText = (scaling: Scaling): string => {
  if (!isRanges(scaling)) return `× ${scaling.gain} + ${scaling.offset}`
  const { raw, to, curve, clamp, inverted } = scaling
  const parts = [
    curve === 'root' && 'root',
    clamp !== 'none' && (clamp === 'both' ? 'stops at both ends' : `stops at the ${clamp} end`),
    inverted && 'sign inverted',
  ].filter((part) => part !== false)
  return [`${raw.low}…${raw.high} → ${to.low}…${to.high}`, ...parts].join(', ')
}
