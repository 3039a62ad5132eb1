import { changeConfiguration } from '#db/configuration'
import { forgetCallers } from '../../lib/callers'
import { idOf, whoIs } from '../../lib/configuration'
import { database } from '../../lib/database'
import { personById, requireOtherAdministrator } from '../../lib/people'
import { defineRoute } from '../../lib/refusal'

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
