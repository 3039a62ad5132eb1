import { z } from 'zod'
import { longestFormula, mostInputs, readFormula } from '#core/formulas/compile'
import { isArrayType } from '#core/tags/types'
import type { SourceColumn } from './columns'
import type { SourceRules } from './source'

const inputName = /^[A-Za-z_][A-Za-z0-9_]*$/
const inputPath = z.string({ error: 'An input is the path of a tag.' }).trim().max(240, 'A path has at most 240 characters.')

export const formulaSource = z.object({
  kind: z.literal('formula'),
  formula: z
    .string({ error: 'A formula is text.' })
    .max(longestFormula, `A formula has at most ${longestFormula.toLocaleString('en-GB')} characters.`)
    .describe('How the value is made of the inputs, as in (a + b) / 2.'),
  inputs: z
    .record(z.string().regex(inputName, 'A name has letters, digits and “_”, and starts with no digit.'), inputPath)
    .refine((inputs) => Object.keys(inputs).length <= mostInputs, `A formula has at most ${mostInputs} inputs.`)
    .default({})
    .describe('The tags behind the names in the formula, by their paths.'),
  quality: z
    .string()
    .max(80)
    .default('worst')
    .describe('Whose quality it has: worst of its inputs, best of them, or that of one input, by its name.'),
})

export type FormulaSource = z.output<typeof formulaSource>

const inputsText = (inputs: Record<string, string>) =>
  Object.entries(inputs)
    .map(([name, path]) => `${name}=${path}`)
    .join('; ')

const inputsFrom = (cell: string): Record<string, string> | null => {
  const parts = cell
    .split(';')
    .map((part) => part.trim())
    .filter((part) => part !== '')
  const pairs = parts.map((part) => [part.slice(0, part.indexOf('=')).trim(), part.slice(part.indexOf('=') + 1).trim()])
  return pairs.every(([name]) => name !== undefined && inputName.test(name)) ? (Object.fromEntries(pairs) as Record<string, string>) : null
}

const columns: readonly SourceColumn<FormulaSource>[] = [
  {
    name: 'formula',
    about: 'How the value is made of the inputs.',
    field: 'formula',
    show: ({ formula }) => formula,
    put: (source, cell) => {
      source.formula = cell
      return null
    },
  },
  {
    name: 'inputs',
    about: 'The tags behind the names in the formula: a=berth/1/power; b=berth/2/power.',
    field: 'inputs',
    show: ({ inputs }) => inputsText(inputs) || null,
    put: (source, cell) => {
      const inputs = inputsFrom(cell)
      if (!inputs) return `“${cell}” are no inputs: as in a=berth/1/power; b=berth/2/power.`
      source.inputs = inputs
      return null
    },
  },
  {
    name: 'quality_from',
    about: 'Whose quality it has: worst, best, or the name of an input. Empty: worst.',
    field: 'quality',
    show: ({ quality }) => (quality === 'worst' ? null : quality),
    put: (source, cell) => {
      source.quality = cell === '' ? 'worst' : cell
      return null
    },
  },
]

/** A value that is worked out of other tags’. */
export const formula: SourceRules<FormulaSource> = {
  contract: formulaSource,
  title: 'Formula',
  subtitle: 'worked out from other tags',
  isScaled: false,
  isDamped: true,
  columns,
  blank: () => ({ kind: 'formula', formula: '', inputs: {}, quality: 'worst' }),
  usualType: () => 'float64',
  problems: ({ type, access, source }) => {
    const { formula: text, inputs, quality } = source
    const read = readFormula(text)
    const problem = (path: string, message: string) => ({ path, message })
    const names = read.ok ? read.formula.names : []
    return [
      ...(read.ok ? [] : [problem('source.formula', read.problem)]),
      ...names.filter((name) => !inputs[name]).map((name) => problem(`source.inputs.${name}`, `Which tag is ${name}?`)),
      ...(['worst', 'best'].includes(quality) || quality in inputs ? [] : [problem('source.quality', `There is no input “${quality}”.`)]),
      ...(isArrayType(type) ? [problem('type', 'A formula gives one value, not an array.')] : []),
      ...(access === 'read' ? [] : [problem('access', 'A formula is not written.')]),
    ]
  },
  /** Inputs that the formula does not name are nobody’s. */
  settled: (tag) => {
    const read = readFormula(tag.source.formula)
    const names = read.ok ? read.formula.names : []
    const inputs = Object.fromEntries(names.map((name) => [name, tag.source.inputs[name]!]))
    return { ...tag, source: { ...tag.source, inputs } }
  },
  paths: {
    of: ({ inputs }) => Object.values(inputs),
    renamed: (source, nowCalled) => ({
      ...source,
      inputs: Object.fromEntries(Object.entries(source.inputs).map(([name, path]) => [name, nowCalled(path)])),
    }),
  },
  isSame: (a, b) => a.formula === b.formula && a.quality === b.quality && inputsText(a.inputs) === inputsText(b.inputs),
}
