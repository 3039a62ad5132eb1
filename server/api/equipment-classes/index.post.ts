import { changeConfiguration } from '#db/configuration'
import { makeClass } from '#shared/api/equipment'
import { defineRoute } from '../../answers/route'
import { shownClass } from '../../equipment/model'
import { requireSoundClass } from '../../equipment/sound'
import { namesTaken, whoIs } from '../../store/configuration'
import { database } from '../../store/database'

export default defineRoute(makeClass, async ({ event, body: draft }) => {
  const change = changeConfiguration(database(), whoIs(event), `Made class “${draft.name}”`, async (editor) => {
    await requireSoundClass(editor.db, draft, null)
    return editor.insert('equipmentClass', [draft])
  })
  const { result } = await namesTaken('equipmentClass', draft.name, 'name', change)
  return shownClass(result[0]!)
})
