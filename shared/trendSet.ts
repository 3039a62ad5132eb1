import { z } from 'zod'
import { idField, lineField, milliseconds, nameField } from '#core/contracts/fields'
import { mostDrawn } from './history'

/** What is drawn together, and over which span: kept by whoever made it, shared by its address. */

export const colours = 8

const drawnSeries = z.object({
  id: idField('A series'),
  /** Which of the colours of lines. */
  colour: z
    .int()
    .min(0)
    .max(colours - 1)
    .default(0),
  steps: z.boolean().nullable().default(null).describe('Whether it is drawn in steps; null: as suits its type.'),
  axis: lineField('An axis', 40).default('').describe('Series with the same one share an axis; empty: that of their unit.'),
  hidden: z.boolean().default(false),
})
export type DrawnSeries = z.output<typeof drawnSeries>

const axisRange = z.object({ axis: z.string().max(60), low: z.number(), high: z.number() }).refine(({ low, high }) => low < high, {
  message: 'The high end lies above the low end.',
  path: ['high'],
})

const lengthField = milliseconds('A span', 1000, 3_153_600_000_000)

export const trendContent = z.object({
  series: z.array(drawnSeries).max(mostDrawn, `At most ${mostDrawn} series.`).default([]),
  span: z
    .discriminatedUnion('kind', [
      z.object({ kind: z.literal('live'), length: lengthField }),
      z.object({ kind: z.literal('fixed'), from: z.number(), length: lengthField }),
    ])
    .default({ kind: 'live', length: 600_000 }),
  /** How much earlier the span is that is drawn beside; ms. */
  beside: lengthField.nullable().default(null),
  ranges: z.array(axisRange).max(20).default([]).describe('Of axes that do not fit themselves to what is there.'),
})
export type TrendContent = z.output<typeof trendContent>

export const mostTrendSets = 100

export const trendSetDraft = z.object({
  name: nameField('set of trends'),
  shared: z.boolean().default(false).describe('Whether everybody may look at it.'),
  content: trendContent,
})

export const trendSet = trendSetDraft
  .extend({ id: z.int(), owner: z.string().describe('Whose it is.'), mine: z.boolean(), madeAt: z.iso.datetime() })
  .meta({ id: 'TrendSet', description: 'Series that somebody draws together.' })
export type TrendSet = z.output<typeof trendSet>
