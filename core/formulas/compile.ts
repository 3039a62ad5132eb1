import { create, parseDependencies, type MathNode } from 'mathjs/number'
import type { Frame } from './frame'
import { arithmetic, formulaConstants, formulaFunctions, inputFunctions, type FormulaFunction } from './functions'
import { asNumber, asTruth, FormulaProblem, type FormulaValue } from './value'

/**
 * The language of formulas: its grammar is that of the package; its meaning is here, closure by closure, with nothing
 * within reach but numbers, truths and text. What the package would do besides (assignments, matrices, objects, units)
 * is refused while it is read.
 */
const { parse } = create(parseDependencies as never, {}) as unknown as { parse(text: string): MathNode }

type Run = (frame: Frame) => FormulaValue

export interface Formula {
  text: string
  /** Names that stand for inputs, in the order in which they come; a frame has its entries in this order. */
  names: string[]
  /** Whether it looks back, so that what was before has to be kept. */
  looksBack: boolean
  /** Whether it goes on from what came of itself before. */
  readsItself: boolean
  /** May throw `FormulaProblem`. */
  run: Run
}

export type ReadFormula = { ok: true; formula: Formula } | { ok: false; problem: string; at: number | null }

export const longestFormula = 2000
const mostParts = 500
export const mostInputs = 50

/**
 * Reads a formula. What is wrong with it is told with the character at which it shows, counted from 1.
 *
 * @param own functions besides those of the language, by their names
 */
export const readFormula = (text: string, own: Record<string, FormulaFunction> = {}): ReadFormula => {
  if (text.trim() === '') return wrong('A formula says how its inputs make the value, as in (a + b) / 2.')
  if (text.length > longestFormula) return wrong(`A formula has at most ${longestFormula} characters; this one has ${text.length}.`)
  const node = parsed(text)
  if ('problem' in node) return node
  const builder = new Builder({ ...own, ...formulaFunctions })
  try {
    const run = builder.build(node.node)
    const { names, looksBack, readsItself } = builder
    return { ok: true, formula: { text, names, looksBack, readsItself, run } }
  } catch (error) {
    if (error instanceof FormulaProblem) return wrong(error.message)
    throw error
  }
}

/** A formula as its parts; null: it cannot be read. */
export const parseFormula = (text: string): FormulaNode | null => {
  const found = parsed(text)
  return 'problem' in found ? null : (found.node as unknown as FormulaNode)
}

const wrong = (problem: string, at: number | null = null): ReadFormula & { ok: false } => ({ ok: false, problem, at })

const parsed = (text: string): { node: MathNode } | (ReadFormula & { ok: false }) => {
  try {
    return { node: parse(text) }
  } catch (error) {
    if (error instanceof RangeError) return wrong('The formula is nested too deep.')
    const { message, char } = error as Error & { char?: number }
    const at = typeof char === 'number' ? char : null
    const what = message.replace(/\s*\(char \d+\)$/, '')
    return wrong(`${at === null ? '' : `At character ${at}: `}${what.charAt(0).toLowerCase()}${what.slice(1)}.`, at)
  }
}

/** What a node of the package has, as far as it matters here. */
export interface FormulaNode {
  type: string
  value?: unknown
  name?: string
  op?: string
  fn?: string | { name?: string; type?: string }
  args?: FormulaNode[]
  implicit?: boolean
  content?: FormulaNode
  condition?: FormulaNode
  trueExpr?: FormulaNode
  falseExpr?: FormulaNode
  conditionals?: string[]
  params?: FormulaNode[]
}

const refusedNodes: Record<string, string> = {
  AssignmentNode: '“=” sets a name, and a formula sets none; to compare, write ==',
  FunctionAssignmentNode: 'a formula defines no functions',
  AccessorNode: 'nothing has parts that could be reached with “.” or “[”',
  IndexNode: 'nothing has parts that could be reached with “[”',
  ArrayNode: 'there are no lists in formulas',
  ObjectNode: 'there are no objects in formulas',
  BlockNode: 'a formula is one expression, without “;”',
  RangeNode: 'there are no ranges in formulas',
}

class Builder {
  readonly names: string[] = []
  looksBack = false
  readsItself = false
  private parts = 0

  constructor(private functions: Record<string, FormulaFunction>) {}

  build(of: MathNode): Run {
    return this.node(of as unknown as FormulaNode)
  }

  private node(node: FormulaNode): Run {
    if (++this.parts > mostParts) throw new FormulaProblem(`A formula has at most ${mostParts} parts.`)
    switch (node.type) {
      case 'ConstantNode':
        return constant(node.value)
      case 'SymbolNode':
        return this.symbol(node.name!)
      case 'ParenthesisNode':
        return this.node(node.content!)
      case 'ConditionalNode':
        return this.conditional(node)
      case 'RelationalNode':
        return this.relational(node)
      case 'OperatorNode':
        return this.operator(node)
      case 'FunctionNode':
        return this.call(node)
      default:
        throw new FormulaProblem(`This is no part of a formula: ${refusedNodes[node.type] ?? node.type}.`)
    }
  }

  private symbol(name: string): Run {
    if (Object.hasOwn(formulaConstants, name)) return constant(formulaConstants[name])
    if (Object.hasOwn(this.functions, name) || Object.hasOwn(inputFunctions, name))
      throw new FormulaProblem(`${name} is a function: write its arguments in brackets behind it.`)
    const index = this.input(name)
    return (frame) => frame.values[index]!
  }

  private input(name: string): number {
    const known = this.names.indexOf(name)
    if (known >= 0) return known
    if (this.names.length >= mostInputs) throw new FormulaProblem(`A formula has at most ${mostInputs} inputs.`)
    return this.names.push(name) - 1
  }

  private conditional({ condition, trueExpr, falseExpr }: FormulaNode): Run {
    const [test, then, otherwise] = [this.node(condition!), this.node(trueExpr!), this.node(falseExpr!)]
    return (frame) => (asTruth(test(frame)) ? then(frame) : otherwise(frame))
  }

  /** `0 < a < 10`: each neighbour with the next. */
  private relational({ params, conditionals }: FormulaNode): Run {
    const parts = params!.map((part) => this.node(part))
    const tests = conditionals!.map((name) => comparison(name))
    return (frame) => {
      const values = parts.map((part) => part(frame))
      return tests.every((test, i) => test(values[i]!, values[i + 1]!))
    }
  }

  private operator({ op, fn, args, implicit }: FormulaNode): Run {
    if (implicit) throw new FormulaProblem('Write * between two things that are multiplied.')
    const [left, right] = args!.map((part) => this.node(part))
    if (right === undefined) return unary(fn as string, op!, left!)
    return binary(fn as string, op!, left!, right)
  }

  private call({ fn, args }: FormulaNode): Run {
    const name = typeof fn === 'string' ? fn : (fn?.name ?? '')
    if (Object.hasOwn(inputFunctions, name)) return this.ofInput(name, args!)
    const known = Object.hasOwn(this.functions, name) ? this.functions[name]! : null
    if (!known) throw new FormulaProblem(`There is no function “${name}”.`)
    if (args!.length < known.least || args!.length > known.most)
      throw new FormulaProblem(`${name} is written ${known.form}, and here it has ${args!.length} arguments.`)
    const runs = args!.map((part) => this.node(part))
    const { run } = known
    const [first, second] = runs
    if (runs.length === 1) return (frame) => run([first!(frame)])
    if (runs.length === 2) return (frame) => run([first!(frame), second!(frame)])
    return (frame) => run(runs.map((one) => one(frame)))
  }

  private ofInput(name: string, args: FormulaNode[]): Run {
    this.looksBack = true
    const [arg, ...more] = args
    if (!arg && inputFunctions[name]!.takesNone) {
      this.readsItself = true
      return (frame) => frame.own ?? 0
    }
    if (!arg || more.length > 0 || arg.type !== 'SymbolNode')
      throw new FormulaProblem(`${name} takes the name of one input: ${inputFunctions[name]!.form}.`)
    const index = this.input(arg.name!)
    if (name === 'previous') return (frame) => frame.previous[index]!
    if (name === 'good') return (frame) => frame.good[index]!
    return (frame) => (Math.max(...frame.changedAt) - frame.changedAt[index]!) / 1000
  }
}

const constant = (value: unknown): Run => {
  if (typeof value !== 'number' && typeof value !== 'boolean' && typeof value !== 'string')
    throw new FormulaProblem('null and undefined are no values of formulas.')
  return () => value
}

const unary = (fn: string, op: string, of: Run): Run => {
  if (fn === 'unaryMinus') return (frame) => -asNumber(of(frame))
  if (fn === 'unaryPlus') return (frame) => asNumber(of(frame))
  if (fn === 'not') return (frame) => !asTruth(of(frame))
  throw new FormulaProblem(`There is no operator “${op}” in formulas.`)
}

const binary = (fn: string, op: string, left: Run, right: Run): Run => {
  if (fn === 'and') return (frame) => asTruth(left(frame)) && asTruth(right(frame))
  if (fn === 'or') return (frame) => asTruth(left(frame)) || asTruth(right(frame))
  if (fn === 'xor') return (frame) => asTruth(left(frame)) !== asTruth(right(frame))
  if (fn === 'equal') return (frame) => isSame(left(frame), right(frame))
  if (fn === 'unequal') return (frame) => !isSame(left(frame), right(frame))
  return plain(fn, left, right) ?? general(fn, op, left, right)
}

/** The four that nearly every formula is made of, each with nothing in between. */
const plain = (fn: string, left: Run, right: Run): Run | null => {
  switch (fn) {
    case 'add':
      return (frame) => {
        const x = left(frame)
        const y = right(frame)
        return typeof x === 'number' && typeof y === 'number' ? x + y : asNumber(x) + asNumber(y)
      }
    case 'subtract':
      return (frame) => {
        const x = left(frame)
        const y = right(frame)
        return typeof x === 'number' && typeof y === 'number' ? x - y : asNumber(x) - asNumber(y)
      }
    case 'multiply':
      return (frame) => {
        const x = left(frame)
        const y = right(frame)
        return typeof x === 'number' && typeof y === 'number' ? x * y : asNumber(x) * asNumber(y)
      }
    case 'divide':
      return (frame) => divided(asNumber(left(frame)), asNumber(right(frame)))
    default:
      return null
  }
}

const divided = (x: number, y: number): number => {
  if (y === 0) throw new FormulaProblem('it divides by zero')
  return x / y
}

const general = (fn: string, op: string, left: Run, right: Run): Run => {
  const work = Object.hasOwn(arithmetic, fn) ? arithmetic[fn]! : null
  if (!work) throw new FormulaProblem(`There is no operator “${op}” in formulas.`)
  return (frame) => work(asNumber(left(frame)), asNumber(right(frame)))
}

const comparison = (name: string): ((x: FormulaValue, y: FormulaValue) => boolean) => {
  if (name === 'equal') return isSame
  if (name === 'unequal') return (x, y) => !isSame(x, y)
  const work = arithmetic[name]!
  return (x, y) => work(asNumber(x), asNumber(y)) === true
}

/** Text is compared with text, all else as numbers. */
const isSame = (x: FormulaValue, y: FormulaValue): boolean =>
  typeof x === 'string' || typeof y === 'string' ? x === y : asNumber(x) === asNumber(y)
