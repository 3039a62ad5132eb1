import { deleteCookie, getCookie } from 'h3'
import { tokenHash } from '#security/tokens'
import { sessionCookie } from '../../lib/access'
import { forgetCallers } from '../../lib/callers'
import { database } from '../../lib/database'
import { defineRoute } from '../../lib/refusal'

/** Signs out: the session is gone, wherever its cookie may still be. */
export default defineRoute('anyone', async (event) => {
  const token = getCookie(event, sessionCookie)
  deleteCookie(event, sessionCookie, { path: '/' })
  if (token) await database().deleteFrom('session').where('hash', '=', tokenHash(token)).execute()
  forgetCallers()
  return { signedIn: false }
})
