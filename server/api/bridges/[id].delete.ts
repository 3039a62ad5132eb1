import { changeConfiguration } from '#db/configuration'
import { removeBridge } from '#shared/api/bridges'
import { defineRoute } from '../../answers/route'
import { lockedRow, whoIs } from '../../store/configuration'
import { database } from '../../store/database'

export default defineRoute(removeBridge, async ({ event, params }) => {
  const { revision } = await changeConfiguration(database(), whoIs(event), 'Removed a bridge', async (editor) => {
    const bridge = await lockedRow(editor, 'bridge', params.id)
    editor.what = `Removed bridge “${bridge.name}”`
    await editor.remove('bridge', [bridge])
  })
  return { removed: params.id, revision }
})
