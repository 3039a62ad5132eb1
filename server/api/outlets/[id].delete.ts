import { changeConfiguration } from '#db/configuration'
import { removeOutlet } from '#shared/api/outlets'
import { defineRoute } from '../../answers/route'
import { lockedRow, whoIs } from '../../store/configuration'
import { database } from '../../store/database'

export default defineRoute(removeOutlet, async ({ event, params }) => {
  const { revision } = await changeConfiguration(database(), whoIs(event), 'Removed an outlet', async (editor) => {
    const outlet = await lockedRow(editor, 'outlet', params.id)
    editor.what = `Removed outlet “${outlet.name}”`
    await editor.remove('outlet', [outlet])
  })
  return { removed: params.id, revision }
})
