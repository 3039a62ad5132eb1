import { hasDimension, isSameDimension, measureOf, powerOf, productOf, type Dimension } from '../tags/dimensions'
import { parseFormula, type FormulaNode } from './compile'

/** What is known of the unit that a part of a formula has. */
interface Known {
  dimension: Dimension
  /** To base units; null: numbers are in it, which may be there to convert. */
  factor: number | null
  text: string
}
/** Bare: a number that goes with any unit; null: nothing is known. */
type Meaning = Known | 'bare' | null

class Misfit extends Error {}

const wayOut = 'convert(x, "kW", "W") changes a unit, number(x) takes it away.'

/**
 * What of a formula does not go together by its units; null: nothing that is known. Numbers go with everything; what has no
 * unit, or one that is not known, is not looked at.
 *
 * @param unitOf the unit of an input @param unit the unit that it gives; empty: none that is known
 */
export const unitProblem = (text: string, unitOf: (name: string) => string, unit: string): string | null => {
  const node = parseFormula(text)
  if (!node) return null
  try {
    const given = new Reader(unitOf).meaning(node)
    return given === null || given === 'bare' ? null : resultProblem(given, unit)
  } catch (error) {
    if (error instanceof Misfit) return `${error.message} ${wayOut}`
    throw error
  }
}

const resultProblem = (given: Known, unit: string): string | null => {
  const wanted = measureOf(unit)
  if (!wanted) return null
  if (!isSameDimension(given.dimension, wanted.dimension)) return `It gives ${given.text}, and the property is in ${unit}. ${wayOut}`
  if (given.factor === null || isSameFactor(given.factor, wanted.factor)) return null
  const times = Number((given.factor / wanted.factor).toPrecision(6))
  return `It gives ${given.text}, and the property is in ${unit}: multiply by ${times}.`
}

const isSameFactor = (a: number, b: number) => Math.abs(a - b) <= 1e-9 * Math.abs(b)

/** Functions of which the arguments have one unit, which is that of what comes out. */
const alike = new Set(['min', 'max', 'sum', 'mean', 'hypot', 'clamp', 'abs', 'floor', 'ceil', 'fix', 'round'])
const angles = new Set(['sin', 'cos', 'tan'])
const comparisons = new Set(['smaller', 'larger', 'smallerEq', 'largerEq', 'equal', 'unequal'])
const none: Dimension = [0, 0, 0, 0, 0]

class Reader {
  constructor(private unitOf: (name: string) => string) {}

  meaning(node: FormulaNode): Meaning {
    switch (node.type) {
      case 'ConstantNode':
        return typeof node.value === 'number' ? 'bare' : null
      case 'SymbolNode':
        return this.input(node.name!)
      case 'ParenthesisNode':
        return this.meaning(node.content!)
      case 'ConditionalNode':
        this.meaning(node.condition!)
        return this.together('chosen between', [node.trueExpr!, node.falseExpr!])
      case 'RelationalNode':
        this.together('compared', node.params!)
        return null
      case 'OperatorNode':
        return this.operator(node)
      case 'FunctionNode':
        return this.call(node)
      default:
        return null
    }
  }

  private input(name: string): Meaning {
    const unit = this.unitOf(name)
    const measure = measureOf(unit)
    return measure && { ...measure, text: unit }
  }

  private operator({ fn, args }: FormulaNode): Meaning {
    const [left, right] = args!
    const name = String(fn)
    if (!right) return name === 'not' ? null : this.meaning(left!)
    if (name === 'add') return this.together('added', args!)
    if (name === 'subtract') return this.together('taken from each other', args!)
    if (comparisons.has(name)) this.together('compared', args!)
    if (name === 'multiply' || name === 'divide') return this.product(this.meaning(left!), this.meaning(right), name === 'divide')
    if (name === 'pow') return this.power(this.meaning(left!), right)
    return null
  }

  private product(a: Meaning, b: Meaning, isDivided: boolean): Meaning {
    if (a === null || b === null) return null
    if (a === 'bare' && b === 'bare') return 'bare'
    const [one, other] = [knownOf(a), knownOf(b)]
    const factor = one.factor === null || other.factor === null ? null : isDivided ? one.factor / other.factor : one.factor * other.factor
    const dimension = productOf(one.dimension, other.dimension, isDivided ? -1 : 1)
    return { dimension, factor, text: hasDimension(dimension) ? textOf(one.text, other.text, isDivided) : 'a share of 1' }
  }

  private power(of: Meaning, times: FormulaNode): Meaning {
    if (of === null || times.type !== 'ConstantNode' || typeof times.value !== 'number') return null
    if (of === 'bare') return 'bare'
    const { dimension, factor, text } = of
    return {
      dimension: powerOf(dimension, times.value),
      factor: factor === null ? null : factor ** times.value,
      text: `${text} to the power of ${times.value}`,
    }
  }

  private call({ fn, args }: FormulaNode): Meaning {
    const name = typeof fn === 'string' ? fn : (fn?.name ?? '')
    if (name === 'convert') return this.converted(args!)
    if (name === 'previous' && args!.length === 1) return this.meaning(args![0]!)
    if (name === 'since') return { dimension: measureOf('s')!.dimension, factor: 1, text: 's' }
    if (name === 'round') return this.meaning(args![0]!)
    if (name === 'sqrt') return this.power(this.meaning(args![0]!), half)
    if (alike.has(name)) return this.together(`put together by ${name}`, args!)
    const meanings = args!.map((arg) => this.meaning(arg))
    if (angles.has(name)) this.wantRadians(name, args![0]!, meanings[0]!)
    return null
  }

  private converted([value, from, to]: FormulaNode[]): Meaning {
    const given = this.meaning(value!)
    const [own, other] = [measureOf(String(from!.value)), measureOf(String(to!.value))]
    if (given !== null && given !== 'bare' && own) {
      const isOwn = isSameDimension(given.dimension, own.dimension) && (given.factor === null || isSameFactor(given.factor, own.factor))
      if (!isOwn) throw new Misfit(`${this.said(value!, given)} is converted as if it were in ${String(from!.value)}.`)
    }
    return other && { ...other, text: String(to!.value) }
  }

  private wantRadians(name: string, arg: FormulaNode, given: Meaning) {
    if (given === null || given === 'bare' || (!hasDimension(given.dimension) && (given.factor === null || given.factor === 1))) return
    throw new Misfit(`${name} takes an angle in rad, and ${this.said(arg, given)} is none.`)
  }

  /** All of these have one unit, which is that of the whole; numbers go with any. */
  private together(how: string, parts: readonly FormulaNode[]): Meaning {
    const meanings = parts.map((part) => this.meaning(part))
    const known = meanings.flatMap((meaning, i) => (meaning === null || meaning === 'bare' ? [] : [{ meaning, part: parts[i]! }]))
    const [first] = known
    for (const { meaning, part } of known.slice(1)) {
      const isSame = isSameDimension(first!.meaning.dimension, meaning.dimension)
      const [a, b] = [first!.meaning.factor, meaning.factor]
      if (!isSame || (a !== null && b !== null && !isSameFactor(a, b)))
        throw new Misfit(`${this.said(first!.part, first!.meaning)} and ${this.said(part, meaning)} are ${how}, and do not go together.`)
    }
    if (first)
      return meanings.includes(null)
        ? null
        : { ...first.meaning, factor: known.some(({ meaning }) => meaning.factor === null) ? null : first.meaning.factor }
    return meanings.includes(null) ? null : 'bare'
  }

  private said(part: FormulaNode, { text }: Known): string {
    return part.type === 'SymbolNode' ? `${part.name!} (${text})` : `${part.toString()} (${text})`
  }
}

const half: FormulaNode = { type: 'ConstantNode', value: 0.5 }
const knownOf = (meaning: Known | 'bare'): Known => (meaning === 'bare' ? { dimension: none, factor: null, text: '' } : meaning)

const textOf = (a: string, b: string, isDivided: boolean): string => {
  if (b === '') return a
  if (a === '') return isDivided ? `1/${b}` : b
  return `${a}${isDivided ? '/' : ' · '}${b}`
}
