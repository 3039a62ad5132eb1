import { z } from 'zod'

const trafficFrame = z
  .object({
    n: z.int().describe('Counts up; a gap means frames that were lost.'),
    at: z.number().describe('Unix milliseconds, with microseconds behind the point.'),
    connection: z.int(),
    out: z.boolean().describe('From here to the far side.'),
    length: z.int().describe('Bytes on the wire.'),
    bytes: z.string().describe('The first of them as Base64.'),
  })
  .meta({ id: 'TrafficFrame', description: 'One frame that passed, or a piece of bytes that is none.' })
export type TrafficFrame = z.output<typeof trafficFrame>

const tappedConnection = z.object({
  id: z.int(),
  peer: z.string().describe('The far side, as in 10.8.0.4:502.'),
  here: z.string().describe('Our end of it; empty where it has no address.'),
})
export type TappedConnection = z.output<typeof tappedConnection>

/** What passed since the last look. */
export const trafficPart = z.object({
  frames: z.array(trafficFrame),
  next: z.int().describe('Where the next look begins.'),
  lost: z.int().describe('Frames between the last look and the first of these, which made room before they were taken.'),
  connections: z.array(tappedConnection),
})
export type TrafficPart = z.output<typeof trafficPart>
