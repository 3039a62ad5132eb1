import { z } from 'zod'
import { momentField } from '#core/contracts/fields'
import { faultContract } from '../faults'
import { flow } from '../flow'

export const doorStatus = z
  .object({
    address: z.string().describe('What clients dial.'),
    interface: z.string(),
    port: z.int(),
    flow,
    fault: faultContract.nullable(),
    arrivals: z
      .object({ machines: z.int(), last: z.object({ from: z.string(), at: momentField }).nullable() })
      .describe('Connections from other machines since the door opened: how many machines, and the last.'),
  })
  .meta({ id: 'DoorStatus' })
export type DoorStatus = z.output<typeof doorStatus>
