import { z } from 'zod'
import { momentField } from '#core/contracts/fields'
import { doorStatus } from './doorStatus'
import { refusedAct } from './refusedAct'

const endpointStatus = z
  .object({
    method: z.string(),
    path: z.string(),
    calls: z.int().describe('Since the outlet was opened, as are the next.'),
    failed: z.int().describe('Answered with a status of 400 or above.'),
    lastStatus: z.int().nullable(),
    lastMs: z.number().nullable(),
    lastAt: momentField.nullable(),
  })
  .meta({ id: 'EndpointStatus' })
export type EndpointStatus = z.output<typeof endpointStatus>

/** How an HTTP server is, beyond what every outlet tells. */
export const httpServerDetails = z
  .object({
    kind: z.literal('http-server'),
    doors: z.array(doorStatus),
    requestsPerSecond: z.number(),
    underWay: z.int(),
    streams: z.int().describe('Programs that follow changes.'),
    endpoints: z.array(endpointStatus).describe('In the order in which they are set.'),
    refused: z.array(refusedAct),
  })
  .meta({ id: 'HttpServerDetails' })
export type HttpServerDetails = z.output<typeof httpServerDetails>
