import { changeConfiguration } from '#db/configuration'
import { idOf, lockedRow, whoIs } from '../../store/configuration'
import { database } from '../../store/database'
import { defineRoute } from '../../answers/refusal'

/** Removes an outlet; its clients are disconnected. */
export default defineRoute('configure', async (event) => {
  const id = idOf(event)
  const { revision } = await changeConfiguration(database(), whoIs(event), 'Removed an outlet', async (editor) => {
    const outlet = await lockedRow(editor, 'outlet', id)
    editor.what = `Removed outlet “${outlet.name}”`
    await editor.remove('outlet', [outlet])
  })
  return { removed: id, revision }
})
