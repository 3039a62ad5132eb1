import { changeConfiguration } from '#db/configuration'
import { fault } from '#core/faults/catalogue'
import { removeClass } from '#shared/api/equipment'
import { Refusal } from '../../answers/refusal'
import { defineRoute } from '../../answers/route'
import { modelNow } from '../../equipment/model'
import { lockedRow, whoIs } from '../../store/configuration'
import { database } from '../../store/database'

export default defineRoute(removeClass, async ({ event, params }) => {
  const { revision } = await changeConfiguration(database(), whoIs(event), 'Removed a class', async (editor) => {
    const { name, ...row } = await lockedRow(editor, 'equipmentClass', params.id)
    editor.what = `Removed class “${name}”`
    const { classes, equipment } = await modelNow(editor.db)
    const made = [...classes.values()].filter(({ parent }) => parent === name).map((one) => one.name)
    const count = [...equipment.values()].filter((one) => one.class === name).length
    if (made.length + count > 0) throw new Refusal(fault('equipment.class-in-use', { name, count, made }))
    await editor.remove('equipmentClass', [row])
  })
  return { removed: params.id, revision }
})
