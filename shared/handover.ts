import { z } from 'zod'
import { momentField } from '#core/contracts/fields'
import { pathKinds, pathRecord, type PassedPiece } from './diagnosis'
import { clientCall } from './calls'
import { allStatistics } from './statistics'
import { engineStatus } from './status'

/** What a handover pack holds of the engine’s side. */

const machineFacts = z.object({
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
      pieces: z.array(z.custom<PassedPiece>()),
    }),
  ),
  calls: z
    .array(z.object({ outlet: z.int(), name: z.string(), calls: z.array(clientCall) }))
    .describe('What clients of each outlet asked last, the newest first.'),
})
export type CaseFacts = z.output<typeof caseFacts>
