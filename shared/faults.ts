import { z } from 'zod'
import { faultCodes, sideText, type Fault, type FaultCode, type Side } from '#core/faults/catalogue'

/** A fault as it travels (`Fault`). */
export const faultContract: z.ZodType<Fault> = z
  .object({
    code: z.enum(faultCodes as [FaultCode, ...FaultCode[]]).describe('Which fault of the catalogue it is; for programs and for support.'),
    what: z.string().describe('What failed.'),
    side: z.enum(Object.keys(sideText) as [Side, ...Side[]]).describe('Whose side it is on.'),
    evidence: z.string().describe('What was seen: an answer in the far side’s words, bytes, a system error. May be empty.'),
    next: z.string().describe('What to do.'),
  })
  .meta({ id: 'Fault', description: 'What failed, the evidence, whose side it is on, and what to do.' })

/** Beside which field something is wrong, and what. */
export const fieldMessage = z.object({
  path: z.string().describe('The field, as in settings.patience.connect or tags.3.path.'),
  message: z.string(),
})
export type FieldMessage = z.output<typeof fieldMessage>

/** What a route answers when it does not do what was asked. */
export const refusalContract = z.object({
  fault: faultContract,
  fields: z.array(fieldMessage).describe('What is wrong with the body or the parameters, field by field; may be empty.'),
  current: z.unknown().optional().describe('As it is saved now, where somebody else changed it meanwhile.'),
})
export type RefusalBody = z.output<typeof refusalContract>
