import { changeConfiguration } from '#db/configuration'
import { hashPassword, oneTimePassword } from '#security/passwords'
import { newPerson } from '#shared/people'
import { namesTaken, whoIs } from '../../store/configuration'
import { database } from '../../store/database'
import { shownPerson } from '../../access/people'
import { bodyOf, defineRoute } from '../../answers/refusal'

/** Lets somebody in, with a password that is told once and has to be changed at the first sign-in. */
export default defineRoute('administer', async (event) => {
  const { name, role } = await bodyOf(event, newPerson)
  const password = oneTimePassword()
  const hashed = await hashPassword(password)
  const change = changeConfiguration(database(), whoIs(event), `Let “${name}” in, to ${role}`, (editor) =>
    editor.db
      .insertInto('person')
      .values({ name, role, password: hashed, must_change: true, on: true })
      .returningAll()
      .executeTakeFirstOrThrow(),
  )
  const { result } = await namesTaken('person', name, 'name', change)
  return { person: shownPerson(result), password }
})
