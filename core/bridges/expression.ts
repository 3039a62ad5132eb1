import { readFormula, type Formula } from '../formulas/compile'
import { frameOf } from '../formulas/frame'
import { FormulaProblem, type FormulaValue } from '../formulas/value'
import { severityOf } from '../tags/quality'
import { valueName } from '../tags/valueNames'
import type { Carried } from '../messages/carried'
import { functionOf } from './lookUps'
import { inputNamed, isGiven, type NamedInput, type Scope } from './names'
import { reach } from './reach'
import type { InputValue, Occasion, RunFacts } from './run'

/** Works out one thing from what a run has. May throw `FormulaProblem`. */
export type Worker = (run: RunFacts) => Carried

export type ReadExpression = { ok: true; work: Worker; names: string[] } | { ok: false; problem: string }

const payloadText = ({ payload }: Occasion): string | null => {
  if (!payload) return null
  const { text } = payload
  if (!text.ok) throw new FormulaProblem(`of the payload, ${text.problem}`)
  return text.value
}

const worstOf = ({ inputs, occasion }: RunFacts) =>
  inputs.reduce((worst, { quality }) => (quality >>> 30 > worst >>> 30 ? quality : worst), occasion.quality)

const calledIn = ({ value, names = [] }: Pick<InputValue, 'value' | 'names'>) =>
  typeof value === 'object' ? null : valueName(value, names)

const workers: Record<string, Worker> = {
  value: ({ occasion }) => occasion.value,
  quality: ({ occasion }) => occasion.quality,
  unit: ({ occasion }) => occasion.unit,
  value_name: ({ occasion }) => calledIn(occasion),
  path: ({ occasion }) => occasion.path,
  topic: ({ occasion }) => occasion.topic,
  file: ({ occasion }) => occasion.topic,
  payload: ({ occasion }) => payloadText(occasion),
  time: ({ occasion }) => new Date(occasion.at),
  now: ({ now }) => new Date(now),
  run: ({ number }) => number,
  row: ({ row }) => row,
  site: ({ site }) => site,
  bridge: ({ bridge }) => bridge,
  worst: worstOf,
}

const ofInput = ({ index, aspect, part }: NamedInput, name: string): Worker => {
  if (aspect === 'quality') return ({ inputs }) => inputs[index]!.quality
  if (aspect === 'unit') return ({ inputs }) => inputs[index]!.unit
  if (aspect === 'value_name') return ({ inputs }) => calledIn(inputs[index]!)
  if (aspect === 'time') return ({ inputs }) => (inputs[index]!.at === null ? null : new Date(inputs[index]!.at!))
  if (part === null) return ({ inputs }) => inputs[index]!.value
  return ({ inputs }) => {
    const found = reach(inputs[index]!.value, part)
    if (!found.ok) throw new FormulaProblem(`of ${name}, ${found.problem}`)
    return found.value
  }
}

/** Level `at` of the path or topic that set the run off, counted from 0. */
const partOf =
  (at: number): Worker =>
  ({ occasion }) =>
    (occasion.path || occasion.topic).split('/')[at] ?? null

/** What a name stands for; null: nothing. */
const named = (name: string, inputs: Scope['inputs']): Worker | null => {
  const input = inputNamed(name, inputs)
  if (input) return ofInput(input, inputs[input.index]!.name)
  if (!isGiven(name)) return null
  return workers[name] ?? partOf(Number(name.slice('part'.length)) - 1)
}

/**
 * Reads what a field comes from. A name by itself hands on exactly what it stands for; everything else is a formula, in
 * which a null anywhere makes the result null.
 */
export const readExpression = (text: string, { inputs, lookUps }: Scope): ReadExpression => {
  const trimmed = text.trim()
  const alone = /^\w+$/.test(trimmed) ? named(trimmed, inputs) : null
  if (alone) return { ok: true, work: alone, names: [trimmed] }
  const read = readFormula(trimmed, Object.fromEntries(lookUps.map((lookUp) => [lookUp.name, functionOf(lookUp)])))
  if (!read.ok) return read
  const { formula } = read
  if (formula.looksBack)
    return { ok: false, problem: 'A bridge does not look back; the quality of an input a is a_quality, its time a_time.' }
  const sources = formula.names.map((name) => named(name, inputs))
  const unknown = formula.names.find((_, i) => sources[i] === null)
  if (unknown !== undefined) return { ok: false, problem: `Nothing here is called “${unknown}”: take it as an input, or correct the name.` }
  return { ok: true, work: worked(formula, sources as Worker[]), names: formula.names }
}

const worked = (formula: Formula, sources: readonly Worker[]): Worker => {
  const frame = frameOf(sources.length)
  return (run) => {
    for (let i = 0; i < sources.length; i++) {
      const value = asFormulaValue(sources[i]!(run), formula.names[i]!)
      if (value === null) return null
      frame.values[i] = value
    }
    const result = formula.run(frame)
    if (typeof result === 'number' && !Number.isFinite(result)) throw new FormulaProblem(`what comes of it is no number (${result})`)
    return result
  }
}

const asFormulaValue = (value: Carried, name: string): FormulaValue | null => {
  if (value === null || value === undefined) return null
  if (typeof value === 'bigint') return Number(value)
  if (value instanceof Date) return value.getTime()
  if (typeof value === 'object') throw new FormulaProblem(`${name} is a list or has parts, and formulas work with single values`)
  return value
}

/** The quality of a run as a whole is good where all that it was made from is. */
export const isAllGood = (run: RunFacts) => severityOf(worstOf(run)) === 'good'
