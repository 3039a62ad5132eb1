import { readRecording, valueAt, type Recording } from './recording'

/** Shapes of signals that are made here, each with what it is. */
export const signalShapes = {
  ramp: 'rises from low to high, and starts over',
  sine: 'swings between low and high',
  square: 'low for half of its cycle, high for the other',
  counter: 'grows by its step, and starts over at high',
  walk: 'wanders by up to its step, between low and high',
  noise: 'another tag, give or take up to its step',
  playback: 'a recording, with its times, again and again',
} as const

export type SignalShape = keyof typeof signalShapes
export const signalShapeNames = Object.keys(signalShapes) as [SignalShape, ...SignalShape[]]

export interface SignalSettings {
  shape: SignalShape
  /** How often it changes, ms. */
  every: number
  low: number
  high: number
  /** How long it takes until it starts over, ms. */
  cycle: number
  step: number
  seed: number
  recording: string
}

/** Gives the next value at a moment; `base` is the other tag’s, where there is one. */
export type Signal = (now: number, base: number) => number

/**
 * Builds a signal. Ramp, sine, square and counter depend on the moment alone, so that two of them stay in step over
 * restarts; walk and noise are the same each time they start from the same seed.
 */
export const signalOf = (settings: SignalSettings, start: number): Signal => {
  const { shape, every, low, high, cycle, step, seed } = settings
  const share = (now: number) => (((now % cycle) + cycle) % cycle) / cycle
  const random = randomFrom(seed)
  switch (shape) {
    case 'ramp':
      return (now) => low + (high - low) * share(now)
    case 'sine':
      return (now) => (low + high) / 2 + ((high - low) / 2) * Math.sin(2 * Math.PI * share(now))
    case 'square':
      return (now) => (share(now) < 0.5 ? low : high)
    case 'counter': {
      const steps = Math.max(1, Math.floor((high - low) / step) + 1)
      return (now) => low + step * (Math.floor(now / every) % steps)
    }
    case 'walk': {
      let value = (low + high) / 2
      return () => (value = reflected(value + (2 * random() - 1) * step, low, high))
    }
    case 'noise':
      return (_, base) => base + (2 * random() - 1) * step
    case 'playback': {
      const read = readRecording(settings.recording)
      const recording: Recording = read.ok ? read.recording : { at: [0], values: [NaN] }
      return (now) => valueAt(recording, now - start)
    }
  }
}

const reflected = (value: number, low: number, high: number) => {
  const back = value < low ? 2 * low - value : value > high ? 2 * high - value : value
  return Math.min(high, Math.max(low, back))
}

/** Numbers from 0 to 1, always the same from one seed (mulberry32). */
export const randomFrom = (seed: number) => {
  let state = seed >>> 0
  return () => {
    state = (state + 0x6d2b79f5) >>> 0
    let mixed = Math.imul(state ^ (state >>> 15), state | 1)
    mixed ^= mixed + Math.imul(mixed ^ (mixed >>> 7), mixed | 61)
    return ((mixed ^ (mixed >>> 14)) >>> 0) / 4_294_967_296
  }
}
