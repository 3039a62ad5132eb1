import { changeConfiguration } from '#db/configuration'
import { counted } from '#core/text/counted'
import { removeEquipment } from '#shared/api/equipment'
import { defineRoute } from '../../answers/route'
import { modelNow } from '../../equipment/model'
import { lockedRow, whoIs } from '../../store/configuration'
import { database } from '../../store/database'

export default defineRoute(removeEquipment, async ({ event, params }) => {
  const { revision } = await changeConfiguration(database(), whoIs(event), 'Removed equipment', async (editor) => {
    const row = await lockedRow(editor, 'equipment', params.id)
    const below = (await modelNow(editor.db)).below(row.path)
    editor.what = `Removed equipment “${row.path}”${below.length > 0 ? ` with ${counted(below.length, 'part')}` : ''}`
    const gone = [row, ...below]
    const tags = await editor.db
      .selectFrom('tag')
      .select('id')
      .where(
        'equipment_id',
        'in',
        gone.map(({ id }) => id),
      )
      .execute()
    await editor.remove('tag', tags)
    await editor.remove('equipment', gone)
  })
  return { removed: params.id, revision }
})
