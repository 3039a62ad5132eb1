import { deleteCookie, getCookie } from 'h3'
import { tokenHash } from '#security/tokens'
import { endSession } from '#shared/api/people'
import { sessionCookie } from '../../access/access'
import { forgetCallers } from '../../access/callers'
import { defineRoute } from '../../answers/route'
import { database } from '../../store/database'

export default defineRoute(endSession, async ({ event }) => {
  const token = getCookie(event, sessionCookie)
  deleteCookie(event, sessionCookie, { path: '/' })
  if (token) await database().deleteFrom('session').where('hash', '=', tokenHash(token)).execute()
  forgetCallers()
  return { signedIn: false as const }
})
