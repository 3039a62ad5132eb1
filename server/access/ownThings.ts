import type { H3Event } from 'h3'
import { fault } from '#core/faults/catalogue'
import { Refusal } from '../answers/refusal'
import { requireWho } from './access'

/** The person whose things are asked for; programs have none of their own. */
export const requirePerson = (event: H3Event): number => {
  const { personId } = requireWho(event)
  if (personId === null) throw new Refusal(fault('access.people-only', {}))
  return personId
}
