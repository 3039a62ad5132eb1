import { z } from 'zod'
import { momentField } from '#core/contracts/fields'
import { faultContract } from '../faults'

/** How a watched file of a program is. */
export const watchedStatus = z
  .object({
    file: z.string(),
    folder: z.string(),
    state: z
      .enum(['looking', 'same', 'waits', 'applied', 'unreadable'])
      .describe('`waits`: it says something else than the tags, and somebody has to look; `applied`: that was applied by itself.'),
    text: z.string().describe('In a sentence.'),
    changedAt: momentField.nullable().describe('When the file was changed last.'),
    importId: z.int().nullable().describe('The plan that waits, or that was applied.'),
    fault: faultContract.nullable(),
  })
  .meta({ id: 'WatchedStatus' })
export type WatchedStatus = z.output<typeof watchedStatus>
