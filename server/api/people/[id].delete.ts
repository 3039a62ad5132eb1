import { changeConfiguration } from '#db/configuration'
import { removePerson } from '#shared/api/people'
import { forgetCallers } from '../../access/callers'
import { personById, requireOtherAdministrator } from '../../access/people'
import { defineRoute } from '../../answers/route'
import { whoIs } from '../../store/configuration'
import { database } from '../../store/database'

export default defineRoute(removePerson, async ({ event, params: { id } }) => {
  await changeConfiguration(database(), whoIs(event), 'Removed somebody', async (editor) => {
    const person = await personById(editor.db, id)
    editor.what = `Removed “${person.name}”`
    await requireOtherAdministrator(editor.db, person)
    await editor.db.deleteFrom('person').where('id', '=', id).execute()
  })
  forgetCallers()
  return { removed: id }
})
