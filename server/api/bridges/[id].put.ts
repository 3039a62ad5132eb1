import { changeConfiguration } from '#db/configuration'
import { changeBridge } from '#shared/api/bridges'
import { defineRoute } from '../../answers/route'
import { bridgesNow, requireEmpty, requireSound, shownBridge } from '../../bridges/bridges'
import { lockedRow, namesTaken, requireRevision, whoIs } from '../../store/configuration'
import { database } from '../../store/database'

export default defineRoute(changeBridge, async ({ event, params, body: { revision, bridge } }) => {
  const change = changeConfiguration(database(), whoIs(event), `Changed bridge “${bridge.name}”`, async (editor) => {
    const before = await lockedRow(editor, 'bridge', params.id)
    await requireRevision(editor, 'bridge', before, before.name, revision, shownBridge(before))
    await requireSound(editor.db, bridge)
    if (bridge.nodeId !== before.nodeId) requireEmpty(shownBridge(before), bridge, await bridgesNow())
    return editor.update('bridge', before, bridge)
  })
  const { result } = await namesTaken('bridge', bridge.name, 'name', change)
  return shownBridge(result)
})
