import { z } from 'zod'
import { momentField } from '#core/contracts/fields'

export const refusedAct = z
  .object({ client: z.string(), text: z.string(), times: z.int(), at: momentField })
  .meta({ id: 'RefusedAct', description: 'Something that a client wanted and could not have.' })
export type RefusedAct = z.output<typeof refusedAct>
