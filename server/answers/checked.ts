import type { z } from 'zod'
import { fault } from '#core/faults/catalogue'
import type { FieldMessage } from '#shared/faults'
import { Refusal } from './refusalError'

/** Something from outside, by its contract. Everything wrong with it is told at once. */
export const checked = <S extends z.ZodType>(value: unknown, contract: S): z.output<S> => {
  const result = contract.safeParse(value)
  if (result.success) return result.data
  throw invalid(result.error.issues.map((issue) => ({ path: issue.path.join('.'), message: issue.message })))
}

export const invalid = (fields: FieldMessage[]) => new Refusal(fault('entry.invalid', { count: fields.length }, fields[0]?.message), fields)
