import { changeConfiguration } from '#db/configuration'
import { makeNode } from '#shared/api/nodes'
import { defineRoute } from '../../answers/route'
import { columnsOf, shownNode } from '../../nodes/nodes'
import { namesTaken, whoIs } from '../../store/configuration'
import { database } from '../../store/database'

export default defineRoute(makeNode, async ({ event, body: node }) => {
  const change = changeConfiguration(database(), whoIs(event), `Made node “${node.name}”`, (editor) =>
    editor.insert('node', [{ ...columnsOf(node), key: null }]),
  )
  const { result } = await namesTaken('node', node.name, 'name', change)
  return shownNode(result[0]!)
})
