import type { H3Event } from 'h3'
import { getRequestIP, setCookie } from 'h3'
import { fault } from '#core/faults/catalogue'
import { isPassword, pretendToCompare } from '#security/passwords'
import { newToken, tokenHash } from '#security/tokens'
import { signIn, type Who } from '#shared/people'
import { sessionCookie } from '../../lib/access'
import { Attempts } from '../../lib/attempts'
import { database } from '../../lib/database'
import { bodyOf, defineRoute, Refusal } from '../../lib/refusal'

/** Many people may share one address, so it takes more to slow that down. */
const byName = new Attempts(5)
const byAddress = new Attempts(40)

/** Signs in by name and password; the session is a cookie that scripts cannot read. */
export default defineRoute('anyone', async (event): Promise<Who> => {
  const { name, password } = await bodyOf(event, signIn)
  const from = getRequestIP(event) ?? 'unknown'
  const key = name.toLowerCase()
  const wait = Math.max(byName.waitFor(key), byAddress.waitFor(from))
  if (wait > 0) throw new Refusal(fault('access.wait', { seconds: Math.ceil(wait / 1000) }))
  const person = await personBy(name, password)
  if (!person) {
    byName.fail(key)
    byAddress.fail(from)
    throw new Refusal(fault('access.wrong', {}))
  }
  byName.succeed(key)
  const token = newToken()
  await database()
    .insertInto('session')
    .values({ hash: tokenHash(token), person_id: person.id, from })
    .execute()
  await database().updateTable('person').set({ seen_at: new Date() }).where('id', '=', person.id).execute()
  giveCookie(event, token)
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
