import { getCookie, getRequestHeader } from 'h3'
import { fault } from '#core/faults/catalogue'
import type { Who } from '#shared/people'
import { callerOf, sessionCookie } from '../../access/access'
import { defineRoute, Refusal } from '../../answers/refusal'

/** Who is signed in. */
export default defineRoute('anyone', async (event): Promise<Who> => {
  const who = await callerOf(getCookie(event, sessionCookie), getRequestHeader(event, 'authorization'))
  if (!who) throw new Refusal(fault('access.sign-in', {}))
  return { name: who.name, role: who.role, mustChange: who.mustChange }
})
