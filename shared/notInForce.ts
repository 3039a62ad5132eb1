import { z } from 'zod'
import { momentField } from '#core/contracts/fields'
import { faultContract } from './faults'

/** Something that is not as it is configured. */
export const notInForce = z
  .object({
    subject: z.string().describe('The kind of thing, as the configuration calls it.'),
    id: z.int(),
    name: z.string(),
    revision: z.int().describe('The revision that is meant to hold.'),
    inForce: z.int().nullable().describe('The revision that holds instead; null: nothing of it does.'),
    fault: faultContract,
    at: momentField.describe('Unix milliseconds of the last try.'),
    node: z.string().optional().describe('On which node; left out: on the engine of this site.'),
  })
  .meta({ id: 'NotInForce', description: 'Something that is not as it is configured.' })
export type NotInForce = z.output<typeof notInForce>
