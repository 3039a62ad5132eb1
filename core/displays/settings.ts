import { z } from 'zod'
import { lineField, milliseconds, nameField, wholeNumber } from '../contracts/fields'
import { rollupWays, windowContract } from '../equipment/settings'

/** Displays (ISA-101): what somebody looks at, as panes on a grid. */

export const gridColumns = 12
const mostRows = 200
export const mostPanes = 60
/** So many lines a pane draws together. */
export const mostLines = 8
const mostListed = 60

/**
 * A tag by its path. On a display of a class what is named is looked for in the equipment first: one of its properties by its
 * name, or something below it.
 */
const tagNamed = z.string({ error: 'Which tag, by its path.' }).trim().min(1, 'Which tag, by its path.').max(240, 'A path has at most 240 characters.') // prettier-ignore

const scale = z
  .object({ low: z.number({ error: 'A number.' }), high: z.number({ error: 'A number.' }) })
  .refine(({ low, high }) => low < high, { message: 'The high end lies above the low end.', path: ['high'] })

/** How a state is drawn: as the stretches of pipe are. */
export const marks = ['flowing', 'late', 'broken', 'off'] as const
export type Mark = (typeof marks)[number]

const stateMark = z.object({
  is: lineField('A value', 200).min(1, 'Which value.').describe('The value, or what it is called.'),
  text: lineField('What it says', 60).default('').describe('Empty: what the value is called.'),
  mark: z.enum(marks),
})

const shows = z.discriminatedUnion(
  'kind',
  [
    z.object({
      kind: z.literal('value'),
      of: tagNamed,
      decimals: wholeNumber('The number of decimals', 0, 10).nullable().default(null).describe('Null: as it is.'),
      scale: scale.nullable().default(null).describe('Between which values a level is drawn below; null: none is.'),
    }),
    z.object({
      kind: z.literal('state'),
      of: tagNamed,
      marks: z.array(stateMark).max(40, 'At most 40 states.').default([]).describe('Whatever is not among them is flowing.'),
    }),
    z.object({
      kind: z.literal('trend'),
      of: z.array(tagNamed).min(1, 'At least one tag.').max(mostLines, `At most ${mostLines} tags.`),
      length: milliseconds('A span', 10_000, 31_536_000_000).default(600_000),
    }),
    z.object({
      kind: z.literal('windows'),
      of: tagNamed,
      how: z.enum(rollupWays).default('mean by time'),
      each: windowContract.default({ count: 1, unit: 'hour' }),
      count: wholeNumber('The number of windows', 2, 100).default(24),
    }),
    z.object({
      kind: z.literal('table'),
      of: z.array(tagNamed).min(1, 'At least one tag.').max(mostListed, `At most ${mostListed} tags.`),
    }),
    z.object({
      kind: z.literal('troubles'),
      below: z.string().trim().max(240, 'A path has at most 240 characters.').default('').describe('A folder; empty: the equipment of the display, or else the whole site.'), // prettier-ignore
      most: wholeNumber('The number of lines', 1, 100).default(10),
    }),
    z.object({ kind: z.literal('words'), text: z.string().max(2000, 'At most 2,000 characters.') }),
  ],
  { error: 'A pane shows a value, a state, a trend, windows, a table, troubles or words.' },
)
export type Shows = z.output<typeof shows>
export type ShowsKind = Shows['kind']
export const showsContract = shows

export const paneContract = z
  .object({
    title: lineField('A title', 80).default('').describe('Empty: what it shows is called.'),
    x: wholeNumber('The column', 0, gridColumns - 1),
    y: wholeNumber('The row', 0, mostRows),
    w: wholeNumber('The width', 1, gridColumns).describe(`Of ${gridColumns} columns.`),
    h: wholeNumber('The height', 1, 40),
    shows,
  })
  .refine(({ x, w }) => x + w <= gridColumns, { message: `It reaches over the last of ${gridColumns} columns.`, path: ['w'] })
export type Pane = z.output<typeof paneContract>

export const displayContract = z.object({
  name: nameField('display'),
  class: lineField('A class', 80).default('').describe('It is shown for each equipment of this class; empty: it stands by itself.'),
  description: lineField('A description', 500).default(''),
  panes: z.array(paneContract).max(mostPanes, `At most ${mostPanes} panes.`).default([]),
})
export type DisplayDraft = z.output<typeof displayContract>
