import { deleteCookie, getCookie } from 'h3'
import { tokenHash } from '#security/tokens'
import { sessionCookie } from '../../access/access'
import { forgetCallers } from '../../access/callers'
import { database } from '../../store/database'
import { defineRoute } from '../../answers/refusal'

/** Signs out: the session is gone, wherever its cookie may still be. */
export default defineRoute('anyone', async (event) => {
  const token = getCookie(event, sessionCookie)
  deleteCookie(event, sessionCookie, { path: '/' })
  if (token) await database().deleteFrom('session').where('hash', '=', tokenHash(token)).execute()
  forgetCallers()
  return { signedIn: false }
})
