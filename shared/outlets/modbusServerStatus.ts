import { z } from 'zod'
import { faultContract } from '../faults'
import { flow } from '../flow'
import { doorStatus } from './doorStatus'
import { refusedAct } from './refusedAct'

const lineStatus = z.object({ device: z.string(), flow, fault: faultContract.nullable() }).meta({ id: 'LineStatus' })
export type LineStatus = z.output<typeof lineStatus>

/** How a Modbus server is, beyond what every outlet tells. */
export const modbusServerDetails = z
  .object({
    kind: z.literal('modbus-server'),
    doors: z.array(doorStatus),
    lines: z.array(lineStatus),
    requestsPerSecond: z.number(),
    entries: z.int().describe('Of its map.'),
    notGood: z.int().describe('Entries whose tag has no good value now.'),
    troubled: z
      .array(z.object({ path: z.string(), at: z.string(), problem: z.string() }))
      .describe('The first of the entries that cannot be told, and why.'),
    troubledCount: z.int(),
    refused: z.array(refusedAct),
  })
  .meta({ id: 'ModbusServerDetails' })
export type ModbusServerDetails = z.output<typeof modbusServerDetails>
