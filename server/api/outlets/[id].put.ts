import { changeConfiguration } from '#db/configuration'
import { outletChange } from '#shared/outlets/outlet'
import { idOf, lockedRow, namesTaken, requireKind, requireRevision, whoIs } from '../../store/configuration'
import { database } from '../../store/database'
import { readySettings, shownOutlet } from '../../outlets/outlets'
import { bodyOf, defineRoute, manyBytes } from '../../answers/refusal'

/** Changes an outlet, unless somebody else did since. */
export default defineRoute('configure', async (event) => {
  const { revision, outlet } = await bodyOf(event, outletChange, manyBytes)
  const change = changeConfiguration(database(), whoIs(event), `Changed outlet “${outlet.name}”`, async (editor) => {
    const before = await lockedRow(editor, 'outlet', idOf(event))
    requireKind('outlet', before, outlet.kind)
    await requireRevision(editor, 'outlet', before, before.name, revision, shownOutlet(before))
    return editor.update('outlet', before, {
      name: outlet.name,
      on: outlet.on,
      settings: await readySettings(editor.db, outlet, before),
    })
  })
  const { result } = await namesTaken('outlet', outlet.name, 'name', change)
  return shownOutlet(result)
})
