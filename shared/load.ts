import { z } from 'zod'
import type { LinkLoad } from '#core/links/load'

const roundLoad = z.object({
  interval: z.number().describe('ms.'),
  tags: z.int(),
  requests: z.int(),
  carried: z.int().describe('Elements that cross the line.'),
  wanted: z.int().describe('Elements that tags want.'),
  ms: z.number().nullable().describe('What a round is expected to take.'),
})

/** What reading its tags asks of a link. */
export const linkLoad: z.ZodType<LinkLoad> = z
  .object({
    parts: z.array(
      z.object({
        unit: z.string().nullable(),
        rounds: z.array(roundLoad),
        busy: z.number().nullable().describe('Share of the time in which it answers us.'),
        fastest: z
          .number()
          .nullable()
          .describe('What one round of all its tags takes, ms: the shortest interval that all of them could have.'),
      }),
    ),
    busy: z
      .number()
      .nullable()
      .describe('Share of the time in which the busiest connection is at work; null before anything was measured.'),
    costly: z
      .array(
        z.object({
          id: z.int().nullable(),
          path: z.string(),
          cost: z.number().describe('Milliseconds of the line in each second.'),
          interval: z.number(),
          sharedWith: z.int().describe('Tags that share its request.'),
        }),
      )
      .describe('The tags that cost most by themselves.'),
    of: z.string().optional().describe('What is asked or listened to, where no requests are counted; absent: watched nodes.'),
  })
  .meta({ id: 'LinkLoad' })

/** As it is, and as it would be. */
export const loadChange = z.object({ now: linkLoad, then: linkLoad })
export type LoadChange = z.output<typeof loadChange>
