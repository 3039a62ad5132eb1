import { fault } from '#core/faults/catalogue'
import { changeConfiguration } from '#db/configuration'
import { removeOutlet } from '#shared/api/outlets'
import { Refusal } from '../../answers/refusal'
import { defineRoute } from '../../answers/route'
import { bridgesOver } from '../../bridges/bridges'
import { lockedRow, whoIs } from '../../store/configuration'
import { database } from '../../store/database'

export default defineRoute(removeOutlet, async ({ event, params }) => {
  const { revision } = await changeConfiguration(database(), whoIs(event), 'Removed an outlet', async (editor) => {
    const outlet = await lockedRow(editor, 'outlet', params.id)
    editor.what = `Removed outlet “${outlet.name}”`
    const bridges = await bridgesOver(editor.db, 'outletId', outlet.id)
    if (bridges.length > 0)
      throw new Refusal(fault('entry.bridged', { name: outlet.name, bridges: bridges.map((name) => `“${name}”`).join(', ') }))
    await editor.remove('outlet', [outlet])
  })
  return { removed: params.id, revision }
})
