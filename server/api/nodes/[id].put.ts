import { fault } from '#core/faults/catalogue'
import { changeConfiguration } from '#db/configuration'
import { changeNode } from '#shared/api/nodes'
import { Refusal } from '../../answers/refusal'
import { defineRoute } from '../../answers/route'
import { columnsOf, shownNode } from '../../nodes/nodes'
import { lockedRow, namesTaken, requireRevision, whoIs } from '../../store/configuration'
import { database } from '../../store/database'

export default defineRoute(changeNode, async ({ event, params, body: { revision, node } }) => {
  const change = changeConfiguration(database(), whoIs(event), `Changed node “${node.name}”`, async (editor) => {
    const before = await lockedRow(editor, 'node', params.id)
    await requireRevision(editor, 'node', before, before.name, revision, shownNode(before))
    if (before.key !== null && before.standsBy !== node.standsBy) throw new Refusal(fault('node.is-one', { name: before.name }))
    return editor.update('node', before, columnsOf(node))
  })
  const { result } = await namesTaken('node', node.name, 'name', change)
  return shownNode(result)
})
