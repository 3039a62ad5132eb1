import { changeConfiguration } from '#db/configuration'
import { removeRecordSet } from '#shared/api/recordSets'
import { defineRoute } from '../../answers/route'
import { lockedRow, whoIs } from '../../store/configuration'
import { database } from '../../store/database'

export default defineRoute(removeRecordSet, async ({ event, params }) => {
  const { revision } = await changeConfiguration(database(), whoIs(event), 'Removed a record set', async (editor) => {
    const set = await lockedRow(editor, 'recordSet', params.id)
    editor.what = `Removed record set “${set.name}”`
    await editor.remove('tag', await editor.db.selectFrom('tag').select('id').where('set_id', '=', set.id).execute())
    await editor.remove('recordSet', [set])
  })
  return { removed: params.id, revision }
})
