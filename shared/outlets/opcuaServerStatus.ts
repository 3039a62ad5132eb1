import { z } from 'zod'
import { shownCertificate } from '../certificates'
import { momentField } from '#core/contracts/fields'
import { faultContract } from '../faults'
import { flow } from '../flow'
import { doorStatus } from './doorStatus'

const knock = shownCertificate
  .extend({ from: z.string(), tries: z.int(), firstAt: momentField, lastAt: momentField })
  .meta({ id: 'Knock', description: 'Somebody who came with a certificate that is not trusted here.' })
export type Knock = z.output<typeof knock>

const dialledClient = z
  .object({
    host: z.string(),
    port: z.int(),
    flow,
    sentence: z.string(),
    fault: faultContract.nullable(),
    taken: z.int().describe('Connections that it took up.'),
  })
  .meta({ id: 'DialledClient', description: 'A client that the server dials, and how that goes.' })
export type DialledStatus = z.output<typeof dialledClient>

const requested = z.object({ text: z.string(), client: z.string(), at: momentField })
const requestedPoint = requested
  .extend({ quality: z.int() })
  .meta({ id: 'RequestedPoint', description: 'A point that a client named itself.' })
export type RequestedPoint = z.output<typeof requestedPoint>
const refusedRequest = requested
  .extend({ problem: z.string(), times: z.int(), lastAt: momentField })
  .meta({ id: 'RefusedRequest', description: 'A point that a client named and could not have.' })
export type RefusedRequest = z.output<typeof refusedRequest>

/** How an OPC UA server is, beyond what every outlet tells. */
export const opcuaServerDetails = z
  .object({
    kind: z.literal('opcua-server'),
    doors: z.array(doorStatus),
    dialled: z.array(dialledClient),
    waiting: z.array(knock).describe('Clients whose certificate waits for a decision.'),
    onRequest: z.object({ points: z.array(requestedPoint), refused: z.array(refusedRequest) }),
  })
  .meta({ id: 'OpcuaServerDetails' })
export type OpcuaServerDetails = z.output<typeof opcuaServerDetails>
