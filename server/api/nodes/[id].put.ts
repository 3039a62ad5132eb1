import { changeConfiguration } from '#db/configuration'
import { changeNode } from '#shared/api/nodes'
import { defineRoute } from '../../answers/route'
import { shownNode } from '../../nodes/nodes'
import { lockedRow, namesTaken, requireRevision, whoIs } from '../../store/configuration'
import { database } from '../../store/database'

export default defineRoute(changeNode, async ({ event, params, body: { revision, node } }) => {
  const change = changeConfiguration(database(), whoIs(event), `Changed node “${node.name}”`, async (editor) => {
    const before = await lockedRow(editor, 'node', params.id)
    await requireRevision(editor, 'node', before, before.name, revision, shownNode(before))
    return editor.update('node', before, node)
  })
  const { result } = await namesTaken('node', node.name, 'name', change)
  return shownNode(result)
})
