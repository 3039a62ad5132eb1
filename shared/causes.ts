import { z } from 'zod'
import { sideText, type Side } from '#core/faults/catalogue'
import type { Cause } from '#core/diagnosis/rank'

const sides = Object.keys(sideText) as [Side, ...Side[]]

/** A cause as it travels (`Cause`). */
export const cause: z.ZodType<Cause> = z
  .object({
    id: z.string().describe('Which of the known causes it is; for programs.'),
    title: z.string(),
    side: z.enum(sides).describe('Whose side it is on.'),
    where: z.string().describe('At which machine something is to be done.'),
    next: z.array(z.string()).describe('What to do there, in order.'),
    for: z.array(z.string()).describe('What was seen that speaks for it.'),
    against: z.array(z.string()).describe('What was seen that speaks against it.'),
    isRuledOut: z.boolean().describe('What was measured leaves no room for it.'),
    unmeasured: z.string().nullable().describe('What would tell and was not measured, and how a person finds out.'),
  })
  .meta({ id: 'Cause', description: 'A cause that a stop may have.' })
