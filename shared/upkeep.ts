import { z } from 'zod'
import type { Ending } from '#core/upkeep/endings'
import { stages } from '#core/upkeep/disks'
import { momentField } from '#core/contracts/fields'
import { faultContract } from './faults'

/** What a site needs so that it goes on for years. */

const concern = z
  .object({
    key: z.string().describe('What tells it from others, as long as it lasts.'),
    urgency: z.enum(['now', 'soon']).describe('now: something stops or is lost already. soon: it will, unless somebody sees to it.'),
    about: z.string(),
    fault: faultContract,
    by: momentField.nullable().describe('By when; null: nobody knows.'),
    since: momentField.describe('When it was found.'),
    place: z.string().describe('The page where something can be done about it.'),
  })
  .meta({ id: 'Concern' })
export type ShownConcern = z.output<typeof concern>

const endingKinds = ['own certificate', 'trusted certificate', 'authority', 'token', 'wall screen'] as const satisfies Ending['kind'][]

export const upkeepState = z
  .object({
    concerns: z.array(concern).describe('What somebody has to see to, the most urgent first.'),
    disks: z.array(
      z.object({
        name: z.string(),
        bytes: z.number(),
        freeBytes: z.number(),
        stage: z.enum(stages).describe('low: somebody should see to it. short: what is recorded gives way. critical: nothing is recorded.'),
        shortAt: momentField.nullable().describe('When it is short at the pace of the last days; null: not known, or never.'),
        marks: z.object({ low: z.number(), short: z.number(), critical: z.number() }).describe('Free bytes below which a stage begins.'),
      }),
    ),
    databaseBytes: z.number().nullable().describe('What the whole database takes; null: it was not there to be asked.'),
    waitingBytes: z.number().describe('What waits for the database and for receivers.'),
    endings: z.array(
      z.object({
        kind: z.enum(endingKinds),
        name: z.string(),
        place: z.string(),
        from: momentField,
        until: momentField,
        usedAt: momentField.nullable(),
      }),
    ),
    backup: z
      .object({ at: momentField, file: z.string(), bytes: z.number(), revision: z.int(), revisionsSince: z.int() })
      .nullable()
      .describe('The last one that was made; null: none.'),
    clockSet: z
      .object({ by: z.number().describe('ms; negative: back.'), at: momentField })
      .nullable()
      .describe('When the clock of the machine was set last since the start.'),
  })
  .meta({ id: 'UpkeepState' })
export type UpkeepState = z.output<typeof upkeepState>
