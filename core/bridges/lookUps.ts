import { z } from 'zod'
import { FormulaProblem, type FormulaValue } from '../formulas/value'
import type { FormulaFunction } from '../formulas/functions'

/** A table that says what one thing is called elsewhere: in expressions it is a function of its own name. */

const cell = z.string({ error: 'A cell is text.' }).trim().max(400, 'At most 400 characters.')

export const lookUpContract = z.object({
  name: z
    .string({ error: 'A look-up table needs a name.' })
    .trim()
    .regex(/^[a-zA-Z][a-zA-Z0-9_]{0,39}$/, 'A name begins with a letter and goes on with letters, digits and “_”, 40 at most.'),
  rows: z
    .array(z.object({ is: cell, becomes: cell }))
    .min(1, 'At least one row.')
    .max(5000, 'At most 5,000 rows.'),
  otherwise: cell.nullable().default(null).describe('What becomes of everything else; null: nothing comes of it, and the run says so.'),
})
export type LookUp = z.output<typeof lookUpContract>

/** The table as a function of one argument. What is written like a number is one on its way out. */
export const functionOf = ({ name, rows, otherwise }: LookUp): FormulaFunction => {
  const known = new Map(rows.map(({ is, becomes }) => [is, valueOf(becomes)]))
  const rest = otherwise === null ? undefined : valueOf(otherwise)
  return {
    ...{ form: `${name}(x)`, about: 'from the look-up table', least: 1, most: 1 },
    run: ([x]) => {
      const found = known.get(String(x)) ?? rest
      if (found === undefined) throw new FormulaProblem(`the look-up table ${name} has no row for “${String(x).slice(0, 40)}”`)
      return found
    },
  }
}

const valueOf = (text: string): FormulaValue => {
  if (text === 'true' || text === 'false') return text === 'true'
  return /^-?(0|[1-9]\d{0,14})(\.\d+)?$/.test(text) ? Number(text) : text
}
