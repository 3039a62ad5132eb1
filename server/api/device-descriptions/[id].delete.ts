import { changeConfiguration } from '#db/configuration'
import { removeDescription } from '#shared/api/deviceDescriptions'
import { defineRoute } from '../../answers/route'
import { lockedRow, whoIs } from '../../store/configuration'
import { database } from '../../store/database'

export default defineRoute(removeDescription, async ({ event, params }) => {
  const { revision } = await changeConfiguration(database(), whoIs(event), 'Removed a device description', async (editor) => {
    const description = await lockedRow(editor, 'deviceDescription', params.id)
    editor.what = `Removed the description of “${description.name}”`
    await editor.remove('deviceDescription', [description])
  })
  return { removed: params.id, revision }
})
