import { getCookie, getRequestHeader } from 'h3'
import { fault } from '#core/faults/catalogue'
import { whoAmI } from '#shared/api/people'
import { callerOf, sessionCookie } from '../../access/access'
import { Refusal } from '../../answers/refusal'
import { defineRoute } from '../../answers/route'

export default defineRoute(whoAmI, async ({ event }) => {
  const who = await callerOf(getCookie(event, sessionCookie), getRequestHeader(event, 'authorization'))
  if (!who) throw new Refusal(fault('access.sign-in', {}))
  return { name: who.name, role: who.role, mustChange: who.mustChange }
})
