import { changeConfiguration } from '#db/configuration'
import { changeClass } from '#shared/api/equipment'
import { defineRoute } from '../../answers/route'
import { renameClass } from '../../equipment/renaming'
import { followTags, shownClass } from '../../equipment/model'
import { requireSoundClass } from '../../equipment/sound'
import { lockedRow, namesTaken, requireRevision, whoIs } from '../../store/configuration'
import { database } from '../../store/database'

export default defineRoute(changeClass, async ({ event, params, body: { revision, class: draft } }) => {
  const change = changeConfiguration(database(), whoIs(event), `Changed class “${draft.name}”`, async (editor) => {
    const before = await lockedRow(editor, 'equipmentClass', params.id)
    await requireRevision(editor, 'equipmentClass', before, before.name, revision, shownClass(before))
    await requireSoundClass(editor.db, draft, before.name, 'class.')
    const changed = await editor.update('equipmentClass', before, draft)
    if (before.name !== draft.name) await renameClass(editor, before.name, draft.name)
    await followTags(editor)
    return changed
  })
  const { result } = await namesTaken('equipmentClass', draft.name, 'class.name', change)
  return shownClass(result)
})
