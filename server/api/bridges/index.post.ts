import { changeConfiguration } from '#db/configuration'
import { makeBridge } from '#shared/api/bridges'
import { defineRoute } from '../../answers/route'
import { requireSound, shownBridge } from '../../bridges/bridges'
import { namesTaken, whoIs } from '../../store/configuration'
import { database } from '../../store/database'

export default defineRoute(makeBridge, async ({ event, body: bridge }) => {
  const change = changeConfiguration(database(), whoIs(event), `Made bridge “${bridge.name}”`, async (editor) => {
    await requireSound(editor.db, bridge)
    return editor.insert('bridge', [bridge])
  })
  const { result } = await namesTaken('bridge', bridge.name, 'name', change)
  return shownBridge(result[0]!)
})
