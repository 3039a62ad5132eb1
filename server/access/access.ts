import type { H3Event } from 'h3'
import { getCookie, getRequestHeader } from 'h3'
import { mayDo, type Role } from '#core/access/roles'
import { fault } from '#core/faults/catalogue'
import { Refusal } from '../answers/refusalError'
import { personBySession, programByToken, type Caller } from './callers'

export const sessionCookie = 'conduit-session'

/** Who sent a request: a person by the cookie, a program by its token. Null: a stranger. */
export const callerOf = (cookie: string | undefined, authorization: string | undefined): Promise<Caller | null> => {
  const token = /^Bearer (\S+)$/.exec(authorization ?? '')?.[1]
  if (token) return programByToken(token)
  return cookie ? personBySession(cookie) : Promise.resolve(null)
}

/** Lets the request pass if whoever sent it has the role. */
export const requireRole = async (event: H3Event, needed: Role): Promise<Caller> => {
  const who = await callerOf(getCookie(event, sessionCookie), getRequestHeader(event, 'authorization'))
  if (!who) throw new Refusal(fault('access.sign-in', {}))
  if (who.mustChange) throw new Refusal(fault('access.change-password', {}))
  if (!mayDo(who.role, needed)) throw new Refusal(fault('access.refused', { role: who.role, needed }))
  event.context.who = who
  return who
}

/** Whoever `requireRole` let pass. */
export const requireWho = (event: H3Event): Caller => {
  const who = event.context.who as Caller | undefined
  if (!who) throw new Refusal(fault('access.sign-in', {}))
  return who
}
