import { changeConfiguration } from '#db/configuration'
import { hashPassword, oneTimePassword } from '#security/passwords'
import { givePassword } from '#shared/api/people'
import { forgetCallers } from '../../../access/callers'
import { personById } from '../../../access/people'
import { defineRoute } from '../../../answers/route'
import { whoIs } from '../../../store/configuration'
import { database } from '../../../store/database'

export default defineRoute(givePassword, async ({ event, params: { id } }) => {
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
