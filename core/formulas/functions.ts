import { conversion } from '../tags/units'
import { timeFunctions } from './times'
import { asNumber, FormulaProblem, type FormulaValue } from './value'

/** A function of the language: pure, of its arguments alone. */
export interface FormulaFunction {
  /** As it is written. */
  form: string
  about: string
  least: number
  most: number
  run(args: FormulaValue[]): FormulaValue
}

const numeric = (form: string, about: string, run: (x: number) => number): FormulaFunction => ({
  ...{ form, about, least: 1, most: 1 },
  run: ([x]) => run(asNumber(x!)),
})
const ofTwo = (form: string, about: string, run: (x: number, y: number) => number): FormulaFunction => ({
  ...{ form, about, least: 2, most: 2 },
  run: ([x, y]) => run(asNumber(x!), asNumber(y!)),
})
const ofMany = (form: string, about: string, run: (all: number[]) => number): FormulaFunction => ({
  ...{ form, about, least: 1, most: 50 },
  run: (args) => run(args.map(asNumber)),
})

const within32 = (x: number): number => {
  if (Number.isInteger(x) && x >= -(2 ** 31) && x < 2 ** 32) return x
  throw new FormulaProblem(`bits are taken of whole numbers of 32 bits, and ${x} is none`)
}
const mostText = 1000
const text = (value: string): string => {
  if (value.length <= mostText) return value
  throw new FormulaProblem(`text grows longer than ${mostText} characters`)
}

const roundTo = (x: number, digits: number) => {
  const scale = 10 ** Math.max(-12, Math.min(12, Math.trunc(digits)))
  return Math.round(x * scale) / scale
}
const sum = (all: number[]) => all.reduce((total, x) => total + x, 0)

/** Every function, by its name. The reference, the check and the calculation go by this. */
export const formulaFunctions: Record<string, FormulaFunction> = {
  abs: numeric('abs(x)', 'without its sign', Math.abs),
  sqrt: numeric('sqrt(x)', 'square root', Math.sqrt),
  cbrt: numeric('cbrt(x)', 'cube root', Math.cbrt),
  exp: numeric('exp(x)', 'e to the power of x', Math.exp),
  log: numeric('log(x)', 'natural logarithm', Math.log),
  log10: numeric('log10(x)', 'logarithm to base 10', Math.log10),
  log2: numeric('log2(x)', 'logarithm to base 2', Math.log2),
  sin: numeric('sin(x)', 'of an angle in radians', Math.sin),
  cos: numeric('cos(x)', 'of an angle in radians', Math.cos),
  tan: numeric('tan(x)', 'of an angle in radians', Math.tan),
  asin: numeric('asin(x)', 'angle in radians', Math.asin),
  acos: numeric('acos(x)', 'angle in radians', Math.acos),
  atan: numeric('atan(x)', 'angle in radians', Math.atan),
  atan2: ofTwo('atan2(y, x)', 'angle in radians of the point x, y', Math.atan2),
  floor: numeric('floor(x)', 'next whole number below', Math.floor),
  ceil: numeric('ceil(x)', 'next whole number above', Math.ceil),
  fix: numeric('fix(x)', 'without its fraction', Math.trunc),
  sign: numeric('sign(x)', '−1, 0 or 1', Math.sign),
  round: {
    ...{ form: 'round(x, digits)', about: 'rounded, to so many decimals; none if left out', least: 1, most: 2 },
    run: ([x, digits = 0]) => roundTo(asNumber(x!), asNumber(digits)),
  },
  min: ofMany('min(a, b, …)', 'the least', (all) => Math.min(...all)),
  max: ofMany('max(a, b, …)', 'the greatest', (all) => Math.max(...all)),
  sum: ofMany('sum(a, b, …)', 'all together', sum),
  mean: ofMany('mean(a, b, …)', 'sum by number', (all) => sum(all) / all.length),
  hypot: ofMany('hypot(a, b, …)', 'root of the sum of squares', (all) => Math.hypot(...all)),
  clamp: {
    ...{ form: 'clamp(x, low, high)', about: 'x, held between two ends', least: 3, most: 3 },
    run: ([x, low, high]) => Math.min(Math.max(asNumber(x!), asNumber(low!)), asNumber(high!)),
  },
  bit: {
    ...{ form: 'bit(x, n)', about: 'whether bit n of a whole number is set; the lowest is 0', least: 2, most: 2 },
    run: ([x, n]) => ((within32(asNumber(x!)) >>> (asNumber(n!) & 31)) & 1) === 1,
  },
  isNaN: {
    ...{ form: 'isNaN(x)', about: 'whether it is no number', least: 1, most: 1 },
    run: ([x]) => Number.isNaN(asNumber(x!)),
  },
  number: {
    ...{ form: 'number(text)', about: 'the number that a text holds', least: 1, most: 1 },
    run: ([x]) => (typeof x === 'string' ? (x.trim() === '' ? NaN : Number(x)) : asNumber(x!)),
  },
  concat: {
    ...{ form: 'concat(a, b, …)', about: 'one after the other, as text', least: 1, most: 50 },
    run: (args) => text(args.map(String).join('')),
  },
  upper: { form: 'upper(text)', about: 'in capitals', least: 1, most: 1, run: ([x]) => text(String(x).toUpperCase()) },
  lower: { form: 'lower(text)', about: 'in small letters', least: 1, most: 1, run: ([x]) => text(String(x).toLowerCase()) },
  convert: {
    ...{ form: 'convert(x, "kW", "W")', about: 'in another unit of the same quantity', least: 3, most: 3 },
    run: ([x, from, to]) => {
      const way = conversion(String(from), String(to))
      if (!way) throw new FormulaProblem(`${String(from)} and ${String(to)} are not known as units of the same quantity`)
      return asNumber(x!) * way.factor + way.offset
    },
  },
  ...timeFunctions,
  length: { form: 'length(text)', about: 'number of characters', least: 1, most: 1, run: ([x]) => String(x).length },
}

/** Functions that ask after an input rather than its value; their argument is its name. */
export const inputFunctions: Record<string, { form: string; about: string; takesNone: boolean }> = {
  previous: {
    form: 'previous(a)',
    about: 'what a had before it changed last; previous() alone: what came of the formula before, at first 0',
    takesNone: true,
  },
  since: { form: 'since(a)', about: 'seconds between the last change of a and the newest of all inputs', takesNone: false },
  good: { form: 'good(a)', about: 'whether a is good; matters where quality does not follow it', takesNone: false },
}

export const formulaConstants: Record<string, FormulaValue> = { pi: Math.PI, e: Math.E, true: true, false: false }

type Operator = (x: number, y: number) => FormulaValue

/** Operators with two sides that work on numbers; `compile.ts` has the others. */
export const arithmetic: Record<string, Operator> = {
  mod: (x, y) => x - y * Math.floor(x / y),
  pow: (x, y) => x ** y,
  smaller: (x, y) => x < y,
  smallerEq: (x, y) => x <= y,
  larger: (x, y) => x > y,
  largerEq: (x, y) => x >= y,
  bitAnd: (x, y) => (within32(x) & within32(y)) >>> 0,
  bitOr: (x, y) => (within32(x) | within32(y)) >>> 0,
  leftShift: (x, y) => (within32(x) << y) >>> 0,
  rightLogShift: (x, y) => within32(x) >>> y,
}
