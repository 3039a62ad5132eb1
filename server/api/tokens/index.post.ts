import { changeConfiguration } from '#db/configuration'
import { newToken, tokenHash } from '#security/tokens'
import { newApiToken } from '#shared/people'
import { whoIs } from '../../store/configuration'
import { database } from '../../store/database'
import { shownToken } from '../../access/people'
import { bodyOf, defineRoute } from '../../answers/refusal'

const dayMs = 86_400_000

/** Makes a token for a program, with a role and an end; it is told once. */
export default defineRoute('administer', async (event) => {
  const { name, role, days } = await bodyOf(event, newApiToken)
  const token = newToken()
  const who = whoIs(event)
  const { result } = await changeConfiguration(database(), who, `Made the token “${name}”, to ${role}, for ${days} days`, ({ db }) =>
    db
      .insertInto('api_token')
      .values({ name, role, hash: tokenHash(token), made_by: who, expires_at: new Date(Date.now() + days * dayMs) })
      .returningAll()
      .executeTakeFirstOrThrow(),
  )
  return { token, shown: shownToken(result) }
})
