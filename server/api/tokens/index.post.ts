import { changeConfiguration } from '#db/configuration'
import { newToken, tokenHash } from '#security/tokens'
import { makeToken } from '#shared/api/people'
import { shownToken } from '../../access/people'
import { defineRoute } from '../../answers/route'
import { whoIs } from '../../store/configuration'
import { database } from '../../store/database'

const dayMs = 86_400_000

export default defineRoute(makeToken, async ({ event, body: { name, role, days } }) => {
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
