import { unitNames } from './units'

/** What quantities are made of: powers of metre, kilogram, second, ampere and kelvin (SI Brochure, 9th edition, 2.3). */
export type Dimension = readonly [m: number, kg: number, s: number, A: number, K: number]

const dimensions: Record<string, Dimension> = {
  ...{ length: [1, 0, 0, 0, 0], volume: [3, 0, 0, 0, 0], mass: [0, 1, 0, 0, 0], time: [0, 0, 1, 0, 0], current: [0, 0, 0, 1, 0] },
  ...{ temperature: [0, 0, 0, 0, 1], speed: [1, 0, -1, 0, 0], 'volume flow': [3, 0, -1, 0, 0], 'mass flow': [0, 1, -1, 0, 0] },
  ...{ frequency: [0, 0, -1, 0, 0], force: [1, 1, -2, 0, 0], pressure: [-1, 1, -2, 0, 0], energy: [2, 1, -2, 0, 0] },
  ...{ power: [2, 1, -3, 0, 0], 'reactive power': [2, 1, -3, 0, 0], 'apparent power': [2, 1, -3, 0, 0] },
  ...{ voltage: [2, 1, -3, -1, 0], resistance: [2, 1, -3, -2, 0], share: [0, 0, 0, 0, 0], angle: [0, 0, 0, 0, 0] },
}

export interface Measure {
  dimension: Dimension
  /** `value in the base units = value × factor`, beside the offset of temperatures. */
  factor: number
}

/** What a unit measures, by its symbol; null: it is not known. */
export const measureOf = (symbol: string): Measure | null => {
  const measures = Object.hasOwn(unitNames, symbol) ? unitNames[symbol]!.measures : undefined
  const dimension = measures ? dimensions[measures[0]] : undefined
  return measures && dimension ? { dimension, factor: measures[1] } : null
}

export const isSameDimension = (a: Dimension, b: Dimension) => a.every((power, i) => Math.abs(power - b[i]!) < 1e-9)
export const hasDimension = (a: Dimension) => a.some((power) => power !== 0)
/** Of a product, where the other one is taken so many times. */
export const productOf = (a: Dimension, b: Dimension, times = 1): Dimension =>
  a.map((power, i) => power + times * b[i]!) as unknown as Dimension
export const powerOf = (a: Dimension, times: number): Dimension => a.map((power) => power * times) as unknown as Dimension
