import { getCookie } from 'h3'
import { fault } from '#core/faults/catalogue'
import { attemptSucceeded, takeAttempt } from '#security/attempts'
import { hashPassword, isPassword } from '#security/passwords'
import { changePassword } from '#shared/api/people'
import { callerOf, sessionCookie } from '../../access/access'
import { forgetCallers } from '../../access/callers'
import { passwordAttempt } from '../../access/guessing'
import { Refusal } from '../../answers/refusal'
import { defineRoute } from '../../answers/route'
import { database } from '../../store/database'

export default defineRoute(changePassword, async ({ event, body: { present, next } }) => {
  const who = await callerOf(getCookie(event, sessionCookie), undefined)
  if (!who?.personId) throw new Refusal(fault('access.sign-in', {}))
  const attempt = passwordAttempt(who.personId)
  const wait = takeAttempt(attempt)
  if (wait > 0) throw new Refusal(fault('access.wait', { seconds: Math.ceil(wait / 1000) }))
  const db = database()
  const person = await db.selectFrom('person').selectAll().where('id', '=', who.personId).executeTakeFirstOrThrow()
  if (!(await isPassword(present, person.password)))
    throw new Refusal(fault('access.wrong', {}), [{ path: 'present', message: 'This is not your present password.' }])
  attemptSucceeded(attempt)
  await db
    .updateTable('person')
    .set({ password: await hashPassword(next), must_change: false })
    .where('id', '=', person.id)
    .execute()
  await db.deleteFrom('session').where('person_id', '=', person.id).where('hash', '!=', who.hash).execute()
  forgetCallers()
  return { name: person.name, role: person.role, mustChange: false }
})
