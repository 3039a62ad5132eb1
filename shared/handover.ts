import { z } from 'zod'
import { momentField } from '#core/contracts/fields'
import { dataTypes } from '#core/tags/types'
import { alarm } from './alarms'
import { passedPiece, pathKinds, pathRecord } from './diagnosis'
import { callTotals, clientCall } from './calls'
import { allStatistics } from './statistics'
import { engineStatus } from './status'
import { wireValue } from './values'

/** What a handover pack holds, and how a copy that looks at one is told of it. */

export const machineFacts = z.object({
  host: z.string(),
  system: z.string(),
  processor: z.string(),
  cores: z.int(),
  memoryMb: z.number(),
  memoryFreeMb: z.number(),
  diskFreeMb: z.number().nullable().describe('Where the engine keeps its state.'),
  upSeconds: z.number(),
  clock: momentField,
  zone: z.string(),
  node: z.string(),
  addresses: z.array(z.string()),
  /** As the system lists them; empty: it could not be asked. */
  routes: z.string(),
  listening: z.string(),
  clockState: z.string(),
})
export type MachineFacts = z.output<typeof machineFacts>

const keptValue = z.object({
  id: z.int().describe('The tag.'),
  value: wireValue,
  type: z.enum(dataTypes),
  quality: z.number(),
  sourceTime: z.number(),
  seenAt: z.number(),
})

export const caseFacts = z.object({
  machine: machineFacts,
  status: engineStatus,
  checks: z.array(pathRecord),
  statistics: allStatistics.describe('What was asked of each link, outlet and bridge, and how it was answered.'),
  passed: z.array(
    z.object({
      of: z.enum(pathKinds),
      id: z.int(),
      kind: z.string().describe('Of link or outlet.'),
      name: z.string(),
      pieces: z.array(passedPiece),
    }),
  ),
  calls: z
    .array(z.object({ outlet: z.int(), name: z.string(), calls: z.array(clientCall), totals: callTotals }))
    .describe('What clients of each outlet asked last, the newest first.'),
  values: z.array(keptValue).describe('What tags had.'),
  alarms: z.array(alarm).describe('What was active or not acknowledged, the worst first.'),
})
export type CaseFacts = z.output<typeof caseFacts>

/** The version of the form of packs. */
export const packForm = 2

/** Which pack it is. */
export const packHead = z.object({
  form: z.int(),
  site: z.string(),
  revision: z.int(),
  madeAt: z.iso.datetime(),
  by: z.string(),
  version: z.string(),
})
export type PackHead = z.output<typeof packHead>

/** What a copy needs of a pack to look at it as its engine told it, besides what people read: `case.json`. */
export const packCase = z.object({
  numbers: z
    .record(
      z.string(),
      z.record(
        z.string(),
        z
          .int()
          .min(1)
          .max(2 ** 30),
      ),
    )
    .describe('By the kind of thing and its name: the number by which the other parts mean it.'),
  ...caseFacts.pick({ passed: true, calls: true, values: true, alarms: true }).shape,
})

/** A revision as a pack tells it. */
export const packRevision = z.object({ number: z.int(), at: z.string(), who: z.string(), what: z.string() })

/** The case that a copy looks at. */
export const caseHead = packHead
  .omit({ form: true })
  .extend({ openedBy: z.string(), openedAt: z.iso.datetime() })
  .meta({ id: 'CaseHead', description: 'Of which site, from when and by whom the pack is, and who opened it here.' })
export type CaseHead = z.output<typeof caseHead>

/** What could not be taken out of a pack. */
export const leftOut = z.object({ path: z.string(), message: z.string() }).meta({ id: 'LeftOut' })
