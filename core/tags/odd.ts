import { elementOf, integerRanges, isArrayValue, isNumeric, type DataType, type ScalarValue, type TagValue } from './types'

/**
 * What becomes of a value that is odd: passed on as it is; `bad`: the last value stays and is bad; `last`: it stays and
 * is uncertain; a number: that one instead, in the tag's unit, uncertain.
 */
export const oddWords = ['pass', 'bad', 'last'] as const
export type OddChoice = (typeof oddWords)[number] | number

/** A raw value, or all from one to another, by which a device says that it has no value. */
export interface OddCode {
  /** `-32768`, `0x8000` (bits of the type), `32760..32767`. */
  raw: string
  then: OddChoice
}

/** What is chosen; what is left out is as the link has it, and there as `usualOdd`. */
export interface OddValues {
  nan?: OddChoice | undefined
  infinite?: OddChoice | undefined
  denormal?: OddChoice | undefined
  codes?: OddCode[] | undefined
}

/** A number that is none is no good value. Denormal floats are numbers, if most often of another type than they are read as. */
export const usualOdd: Required<OddValues> = { nan: 'bad', infinite: 'bad', denormal: 'pass', codes: [] }

/** What holds for a tag: its own choice, else its link's, else the usual one. */
export const oddOf = (link: OddValues | null, tag: OddValues | null): Required<OddValues> => {
  const choice = <K extends keyof OddValues>(key: K) => (tag?.[key] ?? link?.[key] ?? usualOdd[key]) as Required<OddValues>[K]
  return { nan: choice('nan'), infinite: choice('infinite'), denormal: choice('denormal'), codes: choice('codes') }
}

/** Tells what is to become of a raw value; null: it is not odd, or to be passed on. */
export type OddJudge = (raw: TagValue) => Exclude<OddChoice, 'pass'> | null
type ScalarJudge = (raw: ScalarValue) => Exclude<OddChoice, 'pass'> | null

/** Builds the function that judges raw values of a type; null where nothing of it can be odd. */
export const oddJudge = (type: DataType, odd: Required<OddValues>): OddJudge | null => {
  const element = elementOf(type)
  const one = isFloat(element) ? floatJudge(element, odd) : integerRanges[element] ? codeJudge(element, odd.codes) : null
  if (!one || element === type) return one as OddJudge | null
  return (raw) => (isArrayValue(raw) ? worst(raw, one) : null)
}

/** For bytes that may hold no value at all, which comes as NaN: that is bad, whatever was chosen for odd ones. */
export const unreadableIsBad =
  (others: OddJudge | null): OddJudge =>
  (raw) =>
    Number.isNaN(raw) ? 'bad' : (others?.(raw) ?? null)

const isFloat = (type: DataType): type is 'float32' | 'float64' => type === 'float32' || type === 'float64'

/** One odd element makes the whole array so; there is no number that could stand for it. */
const worst = (elements: readonly ScalarValue[], judge: ScalarJudge) => {
  let found: 'bad' | 'last' | null = null
  for (const element of elements) {
    const then = judge(element)
    if (then === 'last' && found === null) found = 'last'
    else if (then !== null) found = 'bad'
  }
  return found
}

const smallestNormal = { float32: 2 ** -126, float64: 2 ** -1022 }

const floatJudge = (type: 'float32' | 'float64', odd: Required<OddValues>): ScalarJudge | null => {
  const codes = codeJudge(type, odd.codes)
  const [nan, infinite, denormal] = [odd.nan, odd.infinite, odd.denormal].map((choice) => (choice === 'pass' ? null : choice)) as [
    Exclude<OddChoice, 'pass'> | null,
    Exclude<OddChoice, 'pass'> | null,
    Exclude<OddChoice, 'pass'> | null,
  ]
  if (!codes && nan === null && infinite === null && denormal === null) return null
  const smallest = smallestNormal[type]
  return (raw) => {
    const code = codes?.(raw) ?? null
    if (code !== null || typeof raw !== 'number') return code
    const size = Math.abs(raw)
    if (size >= smallest && size !== Infinity) return null
    if (size < smallest) return size === 0 ? null : denormal
    return size === Infinity ? infinite : nan
  }
}

interface Span {
  low: number | bigint
  high: number | bigint
  then: Exclude<OddChoice, 'pass'> | null
}

const codeJudge = (type: DataType, codes: readonly OddCode[]): ScalarJudge | null => {
  const spans = codes.flatMap(({ raw, then }): Span[] => {
    const span = codeSpan(raw, type)
    return span ? [{ ...span, then: then === 'pass' ? null : then }] : []
  })
  if (spans.length === 0) return null
  return (raw) => {
    if (typeof raw !== 'number' && typeof raw !== 'bigint') return null
    for (const { low, high, then } of spans) if ((raw >= low && raw <= high) || (Number.isNaN(low) && Number.isNaN(raw))) return then
    return null
  }
}

/** The raw values that a code stands for in a type; null: none, it cannot be read or lies outside of what the type holds. */
export const codeSpan = (code: string, type: DataType): { low: number | bigint; high: number | bigint } | null => {
  const [from, to = from, ...more] = code.split('..').map((end) => rawOf(end.trim(), type))
  if (from === undefined || from === null || to === undefined || to === null || more.length > 0) return null
  return from > to ? null : { low: from, high: to }
}

const hex = /^0x([\da-f]{1,16})$/i
const decimal = /^[-+]?\d+$/
const fraction = /^[-+]?\d+(\.\d+)?(e[-+]?\d+)?$/i

const rawOf = (text: string, type: DataType): number | bigint | null => {
  const bits = hex.exec(text)?.[1]
  if (isFloat(type)) return bits ? floatOf(BigInt(`0x${bits}`), type) : fraction.test(text) ? Number(text) : null
  const range = integerRanges[type]
  if (!range || (!bits && !decimal.test(text))) return null
  const whole = bits ? signed(BigInt(`0x${bits}`), range) : BigInt(text)
  if (whole === null || whole < range.low || whole > range.high) return null
  return type === 'int64' || type === 'uint64' ? whole : Number(whole)
}

/** The bits of a type as the number that they are in it. */
const signed = (bits: bigint, { low, high }: { low: bigint; high: bigint }) => {
  const all = high - low
  return bits > all ? null : bits > high ? bits - all - 1n : bits
}

const floatOf = (bits: bigint, type: 'float32' | 'float64') => {
  const view = new DataView(new ArrayBuffer(8))
  if (type === 'float64') view.setBigUint64(0, bits)
  else if (bits > 0xffffffffn) return null
  else view.setUint32(0, Number(bits))
  return type === 'float64' ? view.getFloat64(0) : view.getFloat32(0)
}

/** Whether a code can be read at all, whatever the type. */
export const isCode = (code: string) => (['int64', 'uint64', 'float64'] as const).some((type) => codeSpan(code, type) !== null)

/** As lists, tables and the way of a value write it: `0x8000 bad; 32760..32767 0`. */
export const codesText = (codes: readonly OddCode[]) => codes.map(({ raw, then }) => `${raw} ${then}`).join('; ')

/** Reads what `codesText` writes; null where it cannot be read. */
export const codesFrom = (text: string): OddCode[] | null => {
  const parts = text
    .split(/[;\n]/)
    .map((part) => part.trim())
    .filter((part) => part !== '')
  const codes: OddCode[] = []
  for (const part of parts) {
    const [raw = '', word = 'bad', ...more] = part.split(/\s+/)
    const then = choiceFrom(word)
    if (then === null || more.length > 0 || !isCode(raw)) return null
    codes.push({ raw, then })
  }
  return codes
}

/** A word or a number as a choice; null: neither. */
export const choiceFrom = (text: string): OddChoice | null => {
  const word = oddWords.find((one) => one === text.toLowerCase())
  return word ?? (fraction.test(text) ? Number(text) : null)
}

/** Which odd values a type can have at all. */
export const canBeOdd = (type: DataType): 'float' | 'codes' | null => {
  const element = elementOf(type)
  return isFloat(element) ? 'float' : isNumeric(element) ? 'codes' : null
}

const thenText = (then: OddChoice) =>
  typeof then === 'number'
    ? `stands as ${then}, uncertain`
    : { pass: 'is passed on', bad: 'makes it bad', last: 'keeps the last value, uncertain' }[then]

/** What is chosen, in a line; empty: everything is as usual. */
export const oddText = (odd: OddValues | null): string => {
  if (!odd) return ''
  const { nan, infinite, denormal, codes } = odd
  const parts = [
    nan !== undefined && `what is no number ${thenText(nan)}`,
    infinite !== undefined && `infinity ${thenText(infinite)}`,
    denormal !== undefined && `a denormal ${thenText(denormal)}`,
    ...(codes ?? []).map(({ raw, then }) => `${raw} ${thenText(then)}`),
  ].filter((part) => part !== false)
  return parts.join(', ')
}
