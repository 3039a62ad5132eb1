import { z } from 'zod'
import { dataTypes } from '#core/tags/types'
import { momentField } from '#core/contracts/fields'
import { valueNames } from './valueNames'
import { wireValue } from './values'

/** A point on the far side, as its link browses it: an address, and the way into its value where it has parts. */
const places = {
  address: z.string().max(4200, 'An address has at most 4,200 characters.').default(''),
  member: z.string().max(400, 'At most 400 characters.').default('').describe('The way into its value, where that has parts.'),
}
export const place = z
  .object(places)
  .meta({ id: 'Place', description: 'A point on the far side; an empty address is where browsing starts.' })
export type Place = z.output<typeof place>

const nodes = {
  ...places,
  name: z.string(),
  kind: z.enum(['object', 'variable', 'method', 'member']),
  opens: z.boolean().describe('Whether something may be inside.'),
}
const browsedNode = z.object(nodes).meta({ id: 'BrowsedNode' })
export type BrowsedNode = z.output<typeof browsedNode>

export const childrenFound = z.object({
  nodes: z.array(browsedNode),
  more: z.boolean().describe('Whether the far side had more than is shown here.'),
})
export type Children = z.output<typeof childrenFound>

/** What is known of one point, for the list, the tray and the tag that may come of it. */
export const placeDetails = z
  .object({
    ...places,
    type: z.enum(dataTypes).nullable().describe('Null: it has no value that can become a tag.'),
    typeName: z.string().describe('The type by the name that the far side gives it.'),
    access: z.enum(['none', 'read', 'readwrite']),
    unit: z.string(),
    range: z.object({ low: z.number(), high: z.number() }).nullable(),
    names: valueNames.optional().describe('What its values are called, in that unit.'),
    scaling: z.object({ gain: z.number(), offset: z.number() }).optional().describe('From the raw value to that unit.'),
    description: z.string(),
    value: wireValue,
    text: z.string(),
    hasParts: z.boolean().describe('Whether there are members or elements to open.'),
    quality: z.int(),
    sourceTime: momentField.describe('Unix milliseconds; 0: none was given.'),
    samplesEvery: z.number().nullable().describe('The fastest that it can be sampled, ms; null: not told.'),
    children: z.int().nullable().describe('How many are inside; null: not counted.'),
    childrenMore: z.boolean().describe('There are more than were counted.'),
    options: z
      .record(z.string(), z.unknown())
      .optional()
      .describe('What a tag of it needs besides its address; left out: the way into its value, where there is one.'),
  })
  .meta({ id: 'PlaceDetails' })
export type PlaceDetails = z.output<typeof placeDetails>

const names = z.array(z.string()).describe('The names that lead to it.')

const foundPlace = z.object({ ...nodes, names }).meta({ id: 'FoundPlace' })
export type FoundPlace = z.output<typeof foundPlace>

const failedPlace = z.object({ names, why: z.string() }).meta({ id: 'FailedPlace', description: 'A place that the far side did not show.' })
export type FailedPlace = z.output<typeof failedPlace>

const progress = {
  failed: z.array(failedPlace),
  looked: z.int().describe('Places looked at so far.'),
  done: z.boolean(),
}
export const searchPart = z.object({ found: z.array(foundPlace), ...progress })
export type SearchPart = z.output<typeof searchPart>
export const branchPart = z.object({ points: z.array(z.object({ names, details: placeDetails })), ...progress })
export type BranchPart = z.output<typeof branchPart>
