import { changeConfiguration } from '#db/configuration'
import { makeRecordSet } from '#shared/api/recordSets'
import { defineRoute } from '../../answers/route'
import { requireSoundSet, shownSet } from '../../records/recordSets'
import { namesTaken, whoIs } from '../../store/configuration'
import { database } from '../../store/database'

export default defineRoute(makeRecordSet, async ({ event, body: set }) => {
  const change = changeConfiguration(database(), whoIs(event), `Made record set “${set.name}”`, async (editor) => {
    await requireSoundSet(editor.db, set, null)
    return editor.insert('recordSet', [set])
  })
  const { result } = await namesTaken('recordSet', set.name, 'name', change)
  return shownSet(result[0]!)
})
