import { changeConfiguration } from '#db/configuration'
import { changeRecordSet } from '#shared/api/recordSets'
import { defineRoute } from '../../answers/route'
import { moveTags, requireSoundSet, shownSet } from '../../records/recordSets'
import { lockedRow, namesTaken, requireRevision, whoIs } from '../../store/configuration'
import { database } from '../../store/database'

export default defineRoute(changeRecordSet, async ({ event, params, body: { revision, recordSet } }) => {
  const change = changeConfiguration(database(), whoIs(event), `Changed record set “${recordSet.name}”`, async (editor) => {
    const before = await lockedRow(editor, 'recordSet', params.id)
    await requireRevision(editor, 'recordSet', before, before.name, revision, shownSet(before))
    await requireSoundSet(editor.db, recordSet, params.id)
    await moveTags(editor, params.id, before.folder, recordSet.folder)
    return editor.update('recordSet', await lockedRow(editor, 'recordSet', params.id), recordSet)
  })
  const { result } = await namesTaken('recordSet', recordSet.name, 'name', change)
  return shownSet(result)
})
