import { changeConfiguration } from '#db/configuration'
import { forgetCallers } from '../../access/callers'
import { idOf, whoIs } from '../../store/configuration'
import { database } from '../../store/database'
import { personById, requireOtherAdministrator } from '../../access/people'
import { defineRoute } from '../../answers/refusal'

/** Removes somebody; their sessions end. */
export default defineRoute('administer', async (event) => {
  const id = idOf(event)
  await changeConfiguration(database(), whoIs(event), 'Removed somebody', async (editor) => {
    const person = await personById(editor.db, id)
    editor.what = `Removed “${person.name}”`
    await requireOtherAdministrator(editor.db, person)
    await editor.db.deleteFrom('person').where('id', '=', id).execute()
  })
  forgetCallers()
  return { removed: id }
})
