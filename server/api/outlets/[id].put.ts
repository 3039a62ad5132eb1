import { changeConfiguration } from '#db/configuration'
import { changeOutlet } from '#shared/api/outlets'
import { defineRoute } from '../../answers/route'
import { requireOutletPlace } from '../../nodes/nodes'
import { readySettings, shownOutlet } from '../../outlets/outlets'
import { lockedRow, namesTaken, requireKind, requireRevision, whoIs } from '../../store/configuration'
import { database } from '../../store/database'

export default defineRoute(changeOutlet, async ({ event, params, body: { revision, outlet } }) => {
  const { name, on, nodeId } = outlet
  const change = changeConfiguration(database(), whoIs(event), `Changed outlet “${name}”`, async (editor) => {
    const before = await lockedRow(editor, 'outlet', params.id)
    requireKind('outlet', before, outlet.kind)
    await requireRevision(editor, 'outlet', before, before.name, revision, shownOutlet(before))
    await requireOutletPlace(editor, outlet)
    return editor.update('outlet', before, { name, on, nodeId, settings: await readySettings(editor.db, outlet, before) })
  })
  const { result } = await namesTaken('outlet', name, 'name', change)
  return shownOutlet(result)
})
