import { z } from 'zod'
import type { OfferedPoint } from '#core/iolink/offered'
import type { ExpectedDevice } from '#core/iolink/settings'
import { dataTypes } from '#core/tags/types'

const measured = z.object({
  name: z.string(),
  about: z.string(),
  address: z.string().describe('As a tag of it has it.'),
  type: z.enum(dataTypes),
  unit: z.string(),
  text: z.string().describe('What it is now, scaled, as a person reads it; empty: it is not known.'),
})

/** One port of a master, for whoever decides what becomes of what is plugged in. */
export const sensorPortFound = z
  .object({
    port: z.int(),
    state: z.string().describe('In the words of the standard.'),
    words: z.string(),
    verdict: z
      .enum(['free', 'arrived', 'taken', 'wrong', 'away'])
      .describe('`arrived`: nobody decided about it yet. `wrong`: another one belongs there. `away`: the one that belongs there is not.'),
    device: z
      .object({
        vendorId: z.int(),
        deviceId: z.int(),
        vendorName: z.string(),
        productName: z.string(),
        serialNumber: z.string(),
      })
      .nullable(),
    described: z
      .object({ named: z.string(), about: z.string(), version: z.string() })
      .nullable()
      .describe('What its description calls it; null: none is loaded.'),
    expected: z.string().describe('What belongs there; empty: nobody said so.'),
    items: z.array(measured).describe('What it measures and is told, with what that is now.'),
    events: z.array(z.object({ code: z.int(), severity: z.string(), text: z.string() })),
    tags: z.int().describe('How many read there.'),
    problem: z.string().describe('Why its values do not count; empty: they do.'),
  })
  .meta({ id: 'SensorPort', description: 'A port of a master of smart sensors.' })
/** What a device offers to become tags, and by what it is known again. */
export interface SensorOffer {
  device: ExpectedDevice
  points: OfferedPoint[]
}

export type SensorPortFound = z.output<typeof sensorPortFound>
