import { z } from 'zod'
import { callOutcome } from '../links/webCall'

/** What an endpoint that is being made answers to values that are tried. */
export const endpointOutcome = callOutcome
  .extend({
    handed: z
      .object({ topic: z.string(), payload: z.string() })
      .nullable()
      .describe('The message that bridges would get; on trial none does. Null: it hands none on.'),
  })
  .meta({ id: 'EndpointOutcome' })
export type EndpointOutcome = z.output<typeof endpointOutcome>
