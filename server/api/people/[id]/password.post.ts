import { changeConfiguration } from '#db/configuration'
import { hashPassword, oneTimePassword } from '#security/passwords'
import { forgetCallers } from '../../../access/callers'
import { idOf, whoIs } from '../../../store/configuration'
import { database } from '../../../store/database'
import { personById } from '../../../access/people'
import { defineRoute } from '../../../answers/refusal'

/** A new password for somebody who lost theirs; told once, to be changed at the next sign-in. */
export default defineRoute('administer', async (event) => {
  const id = idOf(event)
  const password = oneTimePassword()
  const hashed = await hashPassword(password)
  await changeConfiguration(database(), whoIs(event), 'Gave somebody a new password', async (editor) => {
    const person = await personById(editor.db, id)
    editor.what = `Gave “${person.name}” a new password`
    await editor.db.updateTable('person').set({ password: hashed, must_change: true }).where('id', '=', id).execute()
    await editor.db.deleteFrom('session').where('person_id', '=', id).execute()
  })
  forgetCallers()
  return { password }
})
