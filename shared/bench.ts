import { z } from 'zod'
import { idField, milliseconds, momentField } from '#core/contracts/fields'
import { dataTypes } from '#core/tags/types'
import { pointSource } from './sources/point'
import { plainValue, type TagDraft } from './tags'
import { valueOrigin, wireValue } from './values'

/** A point that is tried without a tag. */
export const benchPoint = pointSource
  .pick({ linkId: true, address: true, options: true })
  .extend({
    type: z.enum(dataTypes, { error: 'A type is one of the list.' }),
    interval: milliseconds('An interval', 100, 86_400_000).default(1000).describe('How often it is read while somebody looks, ms.'),
  })
  .meta({ id: 'BenchPoint', description: 'A point of a link that is tried without making a tag.' })
export type BenchPoint = z.output<typeof benchPoint>

/** What came of the last try. */
export const benchResult = z
  .object({
    did: z.enum(['read', 'written']),
    at: momentField,
    ok: z.boolean(),
    text: z.string().max(5000).describe('The value, or what went wrong.'),
    came: z.string().max(5000).describe('What came from the far side, before anything was made of it.'),
  })
  .meta({ id: 'BenchResult', description: 'What came of a try.' })
export type BenchResult = z.output<typeof benchResult>

export const benchEntry = benchPoint
  .extend({ id: z.int(), madeAt: z.iso.datetime(), last: benchResult.nullable() })
  .meta({ id: 'BenchEntry', description: 'A point on the bench of a person, and what came of it.' })
export type BenchEntry = z.output<typeof benchEntry>

/** How many points lie on the bench of one person, and how many are read over and over at once. */
export const mostOnBench = 500
export const mostKept = 100

export const newBenchEntries = z.object({ points: z.array(benchPoint).min(1).max(mostKept, `At most ${mostKept} at once.`) })

/** What a point that is read over and over has now. */
export const benchReading = z
  .object({
    id: z.int(),
    value: wireValue,
    type: z.enum(dataTypes),
    quality: z.int().describe('An OPC UA status code; 0 is Good.'),
    sourceTime: momentField,
    seenAt: momentField.describe('When it was last confirmed.'),
    origin: valueOrigin.nullable(),
  })
  .meta({ id: 'BenchReading', description: 'What a point on the bench has now, and how that is made.' })
export type BenchReading = z.output<typeof benchReading>

export const benchIds = z.object({ ids: z.array(idField('An id')).min(1).max(mostOnBench) })

/** As a tag that nobody makes: what would be wrong with the tag is wrong with the point. */
export const benchTag = ({ linkId, address, options, type, interval }: BenchPoint): TagDraft => ({
  ...{ path: 'bench', type, access: 'read', ...plainValue },
  source: { kind: 'point', linkId, address, options, interval },
})
