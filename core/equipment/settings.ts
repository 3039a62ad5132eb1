import { z } from 'zod'
import { limitsContract } from '../alarms/limits'
import { lineField, nameField } from '../contracts/fields'
import { longestFormula } from '../formulas/compile'
import { pathProblem } from '../tags/path'
import { scalarTypes } from '../tags/types'
import { windowProblem, windowUnits } from './windows'

/** Equipment and its classes, with the levels of ISA-95 (IEC 62264-1, 5.3). */

/** From the whole down to its parts; the last two are those of IEC 61512-1. */
export const levels = ['enterprise', 'site', 'area', 'work center', 'work unit', 'equipment module', 'control module'] as const
export type Level = (typeof levels)[number]

const propertyName = /^[A-Za-z_][A-Za-z0-9_]{0,59}$/
const nameOfProperty = z
  .string({ error: 'A property has a name.' })
  .trim()
  .regex(propertyName, 'A name has letters, digits and “_”, and starts with no digit: formulas speak of it.')

const scalarValue = z.union([z.boolean(), z.number(), z.string().max(1000, 'At most 1,000 characters.')], {
  error: 'A value is a number, a text, true or false.',
})

/** What may be said of a property over a window. */
export const rollupWays = [
  'min',
  'max',
  'range',
  'mean',
  'mean by time',
  'sum',
  'count',
  'first',
  'last',
  'deviation',
  'integral',
  'time true',
] as const
export type RollupWay = (typeof rollupWays)[number]

export const gatherWays = ['sum', 'min', 'max', 'mean', 'count', 'all true', 'any true'] as const
export type GatherWay = (typeof gatherWays)[number]

export const windowContract = z
  .object({ count: z.number({ error: 'A window is so many seconds, minutes or hours.' }), unit: z.enum(windowUnits) })
  .superRefine((window, context) => {
    const problem = windowProblem(window)
    if (problem) context.addIssue({ code: 'custom', message: problem, path: ['count'] })
  })

/** More windows than that are not put together. */
export const mostTogether = 400
const atLeastOne = 'One window, or so many together.'
export const overField = z
  .int(atLeastOne)
  .min(1, atLeastOne)
  .max(mostTogether, `At most ${mostTogether} windows together: longer ones reach as far with fewer.`)
  .describe('So many windows together, up to the one that is over: with more than one it slides on by a window.')

/** Which class, by its name; empty: none. */
const classNamed = lineField('A class', 80).default('')

const madeContract = z.discriminatedUnion(
  'kind',
  [
    z.object({
      kind: z.literal('constant'),
      value: scalarValue.nullable().default(null).describe('What equipment has that says nothing else; null: each has to.'),
    }),
    z.object({
      kind: z.literal('input'),
      alone: z.boolean().default(false).describe('Whether a tag may be the input of one equipment only.'),
    }),
    z.object({
      kind: z.literal('formula'),
      formula: z
        .string({ error: 'A formula is text.' })
        .max(longestFormula, `A formula has at most ${longestFormula.toLocaleString('en-GB')} characters.`)
        .describe('Of the other properties, by their names.'),
    }),
    z.object({
      kind: z.literal('rollup'),
      of: nameOfProperty.describe('The property that is rolled up.'),
      how: z.enum(rollupWays),
      window: windowContract,
      over: overField.default(1),
      shows: z.enum(['last', 'running']).default('last').describe('The last window that is over, or the one at hand so far.'),
    }),
    z.object({
      kind: z.literal('gather'),
      of: nameOfProperty.describe('The property of the children.'),
      how: z.enum(gatherWays),
      class: classNamed.describe('Only children of this class, or of one that is made from it; empty: all that have the property.'),
      depth: z.enum(['children', 'all']).default('children').describe('Only the next level, or all below.'),
    }),
  ],
  { error: 'A property is a constant, an input, a formula, a rollup, or gathered from children.' },
)
export type Made = z.output<typeof madeContract>

export const propertyContract = z.object({
  name: nameOfProperty,
  title: lineField('A title', 80).default('').describe('As people call it; empty: by its name.'),
  type: z.enum(scalarTypes).default('float64'),
  unit: lineField('A unit', 40).default(''),
  description: lineField('A description', 500).default(''),
  limits: limitsContract.default([]),
  made: madeContract,
})
export type Property = z.output<typeof propertyContract>

const mostProperties = 500

export const classContract = z.object({
  name: nameField('class'),
  parent: classNamed.describe('The class that it is made from, by its name: it has all of that one’s properties. Empty: none.'),
  level: z.enum(levels).default('work unit'),
  description: lineField('A description', 500).default(''),
  properties: z
    .array(propertyContract)
    .max(mostProperties, `At most ${mostProperties} properties.`)
    .superRefine((all, context) => {
      const names = new Map<string, number>()
      for (const [i, { name }] of all.entries()) {
        if (names.has(name.toLowerCase()))
          context.addIssue({ code: 'custom', message: `There is a property ${name} already.`, path: [i, 'name'] })
        names.set(name.toLowerCase(), i)
      }
    })
    .default([]),
})
export type ClassDraft = z.output<typeof classContract>

const pathField = z
  .string({ error: 'A piece of equipment has a path.' })
  .trim()
  .superRefine((path, context) => {
    const problem = pathProblem(path === '' ? path : `${path}/x`)
    if (problem) context.addIssue({ code: 'custom', message: path === '' ? 'A piece of equipment has a name.' : problem })
  })
  .describe('What it is part of and its own name, as in Harrow Sound/Berth 2/Converter; its properties are tags in a folder of that path.')

/** How equipment belongs to other equipment besides being part of it. */
const relation = z.object({
  kind: lineField('A relation', 60).min(1, 'What it is to the other: feeds, is backup of.'),
  to: z.string().trim().min(1, 'Which equipment, by its path.').max(240, 'A path has at most 240 characters.'),
})

export const equipmentContract = z.object({
  path: pathField,
  class: classNamed.describe('The name of its class; empty: it only holds others together.'),
  level: z.enum(levels).nullable().default(null).describe('Null: that of its class.'),
  relations: z.array(relation).max(50, 'At most 50 relations.').default([]),
  constants: z.record(z.string(), scalarValue).default({}).describe('Its own values of constants, by their names.'),
  bindings: z
    .record(z.string(), z.string().trim().max(240, 'A path has at most 240 characters.'))
    .default({})
    .describe('The tags that are its inputs: paths, by the names of the properties.'),
  description: lineField('A description', 500).default(''),
})
export type EquipmentDraft = z.output<typeof equipmentContract>
