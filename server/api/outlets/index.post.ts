import { changeConfiguration } from '#db/configuration'
import { makeOutlet } from '#shared/api/outlets'
import { defineRoute } from '../../answers/route'
import { requireOutletPlace } from '../../nodes/nodes'
import { readySettings, shownOutlet } from '../../outlets/outlets'
import { namesTaken, whoIs } from '../../store/configuration'
import { database } from '../../store/database'

export default defineRoute(makeOutlet, async ({ event, body: outlet }) => {
  const change = changeConfiguration(database(), whoIs(event), `Made outlet “${outlet.name}”`, async (editor) => {
    await requireOutletPlace(editor, outlet)
    return editor.insert('outlet', [{ ...outlet, settings: await readySettings(editor.db, outlet, null) }])
  })
  const { result } = await namesTaken('outlet', outlet.name, 'name', change)
  return shownOutlet(result[0]!)
})
