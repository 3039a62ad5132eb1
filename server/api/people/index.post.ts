import { changeConfiguration } from '#db/configuration'
import { hashPassword, oneTimePassword } from '#security/passwords'
import { letIn } from '#shared/api/people'
import { shownPerson } from '../../access/people'
import { defineRoute } from '../../answers/route'
import { namesTaken, whoIs } from '../../store/configuration'
import { database } from '../../store/database'

export default defineRoute(letIn, async ({ event, body: { name, role } }) => {
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
