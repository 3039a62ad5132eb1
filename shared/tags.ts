import { z } from 'zod'
import { limitsContract } from '#core/alarms/limits'
import { clamps, curves } from '#core/tags/curve'
import { pathProblem } from '#core/tags/path'
import { dataTypes } from '#core/tags/types'
import { idField, lineField, savedShape } from '#core/contracts/fields'
import type { pointSource } from './sources/point'
import { oddValues, reportsContract } from './shaping'
import { sourceContract } from './sources/registry'
import { valueNames } from './valueNames'

const gainScaling = z.object({
  kind: z.literal('gain').optional(),
  gain: z.number({ error: 'A gain is a number.' }).refine((gain) => gain !== 0, 'A gain of 0 would make every value the same.'),
  offset: z.number({ error: 'An offset is a number.' }),
})

const ends = (what: string) =>
  z
    .object({
      low: z.number({ error: `The low end of the ${what} is a number.` }),
      high: z.number({ error: `The high end of the ${what} is a number.` }),
    })
    .refine(({ low, high }) => low !== high, { message: `Both ends of the ${what} are the same.`, path: ['high'] })

const rangeScaling = z.object({
  kind: z.literal('ranges'),
  raw: ends('raw range').describe('As the device sends it.'),
  to: ends('engineering range').describe('What that is in the tag’s unit; the high end may lie below the low one.'),
  curve: z
    .enum(curves, { error: 'A curve is linear or root.' })
    .default('linear')
    .describe('`root`: the square root of the share of the range.'),
  clamp: z.enum(clamps, { error: 'Values stop at none, low, high or both.' }).default('none').describe('At which ends values stop.'),
  inverted: z.boolean({ error: 'The sign is inverted or not.' }).default(false).describe('Whether the sign is turned around, last of all.'),
})

const scaling = z.discriminatedUnion('kind', [gainScaling, rangeScaling])

/** Where values lie in normal operation, in the tag's unit. */
const range = z
  .object({ low: z.number({ error: 'The low end is a number.' }), high: z.number({ error: 'The high end is a number.' }) })
  .refine(({ low, high }) => low < high, { message: 'The high end lies above the low end.', path: ['high'] })

/** A note that is none any more, for as long as it says the same. */
const acceptedNote = z.object({
  note: lineField('A note', 600).describe('By what it is known again: its kind, and what it is about.'),
  reason: lineField('A reason', 200),
})

/** What a person enters to make or change a tag. */
export const tagDraft = z.object({
  path: z
    .string({ error: 'A tag needs a path.' })
    .trim()
    .superRefine((path, context) => {
      const problem = pathProblem(path)
      if (problem) context.addIssue({ code: 'custom', message: problem })
    }),
  /** Where its values come from. */
  source: sourceContract,
  type: z.enum(dataTypes, {
    error: 'A type is one of bool, int8 to int64, uint8 to uint64, float32, float64, string or datetime, or a list such as int16[].',
  }),
  access: z.enum(['read', 'readwrite'], { error: 'Access is read or readwrite.' }).default('read'),
  scaling: scaling.nullable().default(null),
  odd: oddValues.nullable().default(null).describe('What becomes of odd values; null: as the link has it.'),
  rawUnit: lineField('A unit', 40).default('').describe('The unit before it is converted to the tag’s; empty: it is the tag’s.'),
  unit: lineField('A unit', 40).default(''),
  range: range.nullable().default(null),
  names: valueNames.default([]),
  limits: limitsContract.default([]),
  reports: reportsContract.nullable().default(null).describe('Which changes are passed on; null: each.'),
  accepted: z
    .array(acceptedNote)
    .max(20, 'At most 20 accepted notes.')
    .default([])
    .describe('Notes that somebody looked at and found right, each with the reason.'),
  description: lineField('A description', 500).default(''),
})

export type TagDraft = z.output<typeof tagDraft>

/** What a tag has of its value where nothing is chosen. */
export const plainValue = {
  ...{ scaling: null, odd: null, rawUnit: '', unit: '', range: null, names: [], limits: [], reports: null, accepted: [], description: '' },
} satisfies Partial<TagDraft>

/** A tag of a link's point, with whatever is left out as it is by default. */
export const pointTag = ({
  linkId,
  address,
  options,
  interval,
  ...rest
}: Omit<z.input<typeof tagDraft>, 'source'> & Omit<z.input<typeof pointSource>, 'kind'>): TagDraft =>
  tagDraft.parse({ ...rest, source: { kind: 'point', linkId, address, options, interval } })

export const savedTag = tagDraft.extend(savedShape).meta({ id: 'Tag' })
export type Tag = z.output<typeof savedTag>

export const tagChange = z.object({ revision: idField('A revision'), tag: tagDraft })
export const newTags = z.object({ tags: z.array(tagDraft).min(1).max(20_000, 'At most 20,000 tags at once.') })
