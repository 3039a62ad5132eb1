import { changeConfiguration } from '#db/configuration'
import { makeEquipment } from '#shared/api/equipment'
import { defineRoute } from '../../answers/route'
import { followTags, shownEquipmentRow } from '../../equipment/model'
import { requireSoundEquipment } from '../../equipment/sound'
import { namesTaken, whoIs } from '../../store/configuration'
import { database } from '../../store/database'

export default defineRoute(makeEquipment, async ({ event, body: draft }) => {
  const change = changeConfiguration(database(), whoIs(event), `Made equipment “${draft.path}”`, async (editor) => {
    await requireSoundEquipment(editor.db, draft, null)
    const made = await editor.insert('equipment', [draft])
    await followTags(editor)
    return made
  })
  const { result } = await namesTaken('tag', draft.path, 'path', change)
  return shownEquipmentRow(result[0]!)
})
