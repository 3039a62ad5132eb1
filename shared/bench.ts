import { z } from 'zod'
import { idField, lineField, milliseconds, momentField } from '#core/contracts/fields'
import { dataTypes } from '#core/tags/types'
import { pointSource } from './sources/point'
import { plainValue, type TagDraft } from './tags'
import { readingRow, reason, valueOrigin, wireValue } from './values'

/** A point that is tried without a tag. */
export const benchPoint = pointSource
  .pick({ linkId: true, address: true, options: true })
  .extend({
    type: z.enum(dataTypes, { error: 'A type is one of the list.' }),
    interval: milliseconds('An interval', 100, 86_400_000).default(1000).describe('How often it is read while somebody looks, ms.'),
  })
  .meta({ id: 'BenchPoint', description: 'A point of a link that is tried without making a tag.' })
export type BenchPoint = z.output<typeof benchPoint>

/** As much of a text that came as is kept. */
export const mostOfText = 5000

/** What came of the last try. */
export const benchResult = z
  .object({
    did: z.enum(['read', 'written']),
    at: momentField,
    ok: z.boolean(),
    text: z.string().max(mostOfText).describe('The value, or what went wrong.'),
    came: z.string().max(mostOfText).describe('What came from the far side, before anything was made of it.'),
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

/** As many registers as one request reads (Modbus Application Protocol V1.1b3, 6.3). */
export const mostInBlock = 125

export const benchBlock = z
  .object({
    linkId: idField('A link'),
    address: lineField('An address', 500).describe('The first register.'),
    count: z.int({ error: 'How many registers.' }).min(1, 'At least one.').max(mostInBlock, `At most ${mostInBlock} registers.`),
    interval: milliseconds('An interval', 100, 60_000).default(250),
    open: z.int().min(0).nullable().default(null).describe('The register of which every reading is wanted, counted from the first.'),
  })
  .meta({ id: 'BenchBlock', description: 'Registers of which nobody knows what they hold.' })
export type BenchBlock = z.output<typeof benchBlock>

/** What a block held over a while, as the engine noted it. */
export interface BlockNow {
  /** Unix milliseconds. */
  times: number[]
  /** By moment, then by register; null: nothing good there. */
  words: (number | null)[][]
  /** By register, what is wrong with it now; null: nothing. */
  problems: (string | null)[]
}

const blockField = z
  .object({
    at: z.int().describe('Its first register, counted from the first of the block.'),
    address: z.string(),
    registers: z.int(),
    label: z.string(),
    text: z.string().describe('What it reads now.'),
    value: z.number().nullable(),
    reasons: z.array(reason),
    takes: readingRow.shape.takes,
  })
  .meta({ id: 'BlockField', description: 'A value as it probably lies in its registers.' })
export type BlockField = z.output<typeof blockField>

export const blockLayout = z
  .object({
    seconds: z.number().describe('For how long it was watched.'),
    moments: z.int(),
    changing: z.int().describe('How many registers changed meanwhile.'),
    order: z.string().describe('How the words of wide values lie.'),
    lead: z.number().describe('How many bits more the next best order of words leaves to be said; below three, both will do.'),
    fields: z.array(blockField),
    gaps: z.array(z.object({ address: z.string(), registers: z.int(), problem: z.string() })).describe('Registers that give nothing good.'),
    readings: z.array(readingRow).describe('Of the register that is wanted.'),
  })
  .meta({ id: 'BlockLayout', description: 'The layout that explains best what was seen in a block of registers.' })
export type BlockLayout = z.output<typeof blockLayout>
