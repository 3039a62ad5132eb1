import { changeConfiguration } from '#db/configuration'
import { removeNode } from '#shared/api/nodes'
import { defineRoute } from '../../answers/route'
import { requireNothingOn, requireNotLeading } from '../../nodes/nodes'
import { lockedRow, whoIs } from '../../store/configuration'
import { database } from '../../store/database'

export default defineRoute(removeNode, async ({ event, params }) => {
  const { revision } = await changeConfiguration(database(), whoIs(event), 'Removed a node', async (editor) => {
    const node = await lockedRow(editor, 'node', params.id)
    editor.what = `Removed node “${node.name}”`
    await requireNothingOn(editor, node)
    await requireNotLeading(editor, node)
    await editor.remove('node', [node])
  })
  return { removed: params.id, revision }
})
