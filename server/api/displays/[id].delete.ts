import { changeConfiguration } from '#db/configuration'
import { removeDisplay } from '#shared/api/displays'
import { defineRoute } from '../../answers/route'
import { lockedRow, whoIs } from '../../store/configuration'
import { database } from '../../store/database'

export default defineRoute(removeDisplay, async ({ event, params }) => {
  const { revision } = await changeConfiguration(database(), whoIs(event), 'Removed a display', async (editor) => {
    const display = await lockedRow(editor, 'display', params.id)
    editor.what = `Removed display “${display.name}”`
    await editor.remove('display', [display])
  })
  return { removed: params.id, revision }
})
