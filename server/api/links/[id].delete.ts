import { z } from 'zod'
import { fault } from '#core/faults/catalogue'
import { changeConfiguration } from '#db/configuration'
import { idOf, lockedRow, whoIs } from '../../store/configuration'
import { database } from '../../store/database'
import { defineRoute, queryOf, Refusal } from '../../answers/refusal'

/** Removes a link; with `?tags=remove` also the tags that read through it, else only if there are none. */
export default defineRoute('configure', async (event) => {
  const id = idOf(event)
  const { tags: withTags } = queryOf(event, z.object({ tags: z.literal('remove').optional() }))
  const { revision } = await changeConfiguration(database(), whoIs(event), 'Removed a link', async (editor) => {
    const link = await lockedRow(editor, 'link', id)
    editor.what = `Removed link “${link.name}”`
    const tags = await editor.db.selectFrom('tag').selectAll().where('link_id', '=', id).execute()
    if (tags.length > 0 && !withTags) throw new Refusal(fault('entry.in-use', { name: link.name, tags: tags.length }))
    await editor.remove('tag', tags)
    await editor.remove('link', [link])
  })
  return { removed: id, revision }
})
