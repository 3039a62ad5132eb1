import { setCookie } from 'h3'
import type { H3Event } from 'h3'
import { fault } from '#core/faults/catalogue'
import { attemptSucceeded, takeAttempt } from '#security/attempts'
import { isPassword, pretendToCompare } from '#security/passwords'
import { newToken, tokenHash } from '#security/tokens'
import { startSession } from '#shared/api/people'
import { sessionCookie } from '../../access/access'
import { addressOf, rememberBrowser, signInAttempt } from '../../access/guessing'
import { Refusal } from '../../answers/refusal'
import { defineRoute } from '../../answers/route'
import { recordDeed } from '../../journal/deeds'
import { database } from '../../store/database'

export default defineRoute(startSession, async ({ event, body: { name, password } }) => {
  const attempt = signInAttempt(event, name)
  const wait = takeAttempt(attempt)
  if (wait > 0) throw new Refusal(fault('access.wait', { seconds: Math.ceil(wait / 1000) }))
  const person = await personBy(name, password)
  if (!person) {
    await recordDeed(event, { who: name, kind: 'refused', what: 'Name or password is wrong', ok: false })
    throw new Refusal(fault('access.wrong', {}))
  }
  attemptSucceeded(attempt)
  const token = newToken()
  await database()
    .insertInto('session')
    .values({ hash: tokenHash(token), person_id: person.id, from: addressOf(event) })
    .execute()
  await database().updateTable('person').set({ seen_at: new Date() }).where('id', '=', person.id).execute()
  giveCookie(event, token)
  rememberBrowser(event, person.name)
  await recordDeed(event, { who: person.name, kind: 'signed in', what: `As ${person.role}` })
  return { name: person.name, role: person.role, mustChange: person.must_change }
})

const personBy = async (name: string, password: string) => {
  const person = await database()
    .selectFrom('person')
    .selectAll()
    .where((eb) => eb(eb.fn<string>('lower', ['name']), '=', name.toLowerCase()))
    .executeTakeFirst()
  if (!person?.on) {
    await pretendToCompare(password)
    return null
  }
  return (await isPassword(password, person.password)) ? person : null
}

const giveCookie = (event: H3Event, token: string) =>
  setCookie(event, sessionCookie, token, {
    httpOnly: true,
    sameSite: 'strict',
    path: '/',
    secure: event.node.req.headers['x-forwarded-proto'] === 'https',
  })
