import { sql } from 'kysely'
import { changeConfiguration } from '#db/configuration'
import { changeEquipment } from '#shared/api/equipment'
import { defineRoute } from '../../answers/route'
import { followTags, shownEquipmentRow } from '../../equipment/model'
import { moveEquipment } from '../../equipment/renaming'
import { requireSoundEquipment } from '../../equipment/sound'
import { lockedRow, namesTaken, requireRevision, whoIs } from '../../store/configuration'
import { database } from '../../store/database'

export default defineRoute(changeEquipment, async ({ event, params, body: { revision, equipment: draft } }) => {
  const change = changeConfiguration(database(), whoIs(event), `Changed equipment “${draft.path}”`, async (editor) => {
    const before = await lockedRow(editor, 'equipment', params.id)
    await requireRevision(editor, 'equipment', before, before.path, revision, shownEquipmentRow(before))
    await requireSoundEquipment(editor.db, draft, params.id, 'equipment.')
    await sql`set constraints all deferred`.execute(editor.db)
    const changed = await editor.update('equipment', before, draft)
    if (before.path !== draft.path) await moveEquipment(editor, params.id, before.path, draft.path)
    await followTags(editor)
    return changed
  })
  const { result } = await namesTaken('tag', draft.path, 'equipment.path', change)
  return shownEquipmentRow(result)
})
