import { deleteCookie, getCookie } from 'h3'
import { tokenHash } from '#security/tokens'
import { endSession } from '#shared/api/people'
import { sessionCookie } from '../../access/access'
import { forgetCallers, personBySession } from '../../access/callers'
import { defineRoute } from '../../answers/route'
import { recordDeed } from '../../journal/deeds'
import { database } from '../../store/database'

export default defineRoute(endSession, async ({ event }) => {
  const token = getCookie(event, sessionCookie)
  const who = token ? await personBySession(token) : null
  deleteCookie(event, sessionCookie, { path: '/' })
  if (token) await database().deleteFrom('session').where('hash', '=', tokenHash(token)).execute()
  forgetCallers()
  if (who) await recordDeed(event, { who: who.name, kind: 'signed out', what: '' })
  return { signedIn: false as const }
})
