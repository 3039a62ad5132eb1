import { fault } from '#core/faults/catalogue'
import { changeConfiguration } from '#db/configuration'
import { removeLink } from '#shared/api/links'
import { Refusal } from '../../answers/refusal'
import { defineRoute } from '../../answers/route'
import { bridgesOver } from '../../bridges/bridges'
import { lockedRow, whoIs } from '../../store/configuration'
import { database } from '../../store/database'

export default defineRoute(removeLink, async ({ event, params, query }) => {
  const { revision } = await changeConfiguration(database(), whoIs(event), 'Removed a link', async (editor) => {
    const link = await lockedRow(editor, 'link', params.id)
    editor.what = `Removed link “${link.name}”`
    const bridges = await bridgesOver(editor.db, 'linkId', link.id)
    if (bridges.length > 0)
      throw new Refusal(fault('entry.bridged', { name: link.name, bridges: bridges.map((name) => `“${name}”`).join(', ') }))
    const tags = await editor.db.selectFrom('tag').selectAll().where('link_id', '=', link.id).execute()
    if (tags.length > 0 && !query.tags) throw new Refusal(fault('entry.in-use', { name: link.name, tags: tags.length }))
    await editor.remove('tag', tags)
    await editor.remove('link', [link])
  })
  return { removed: params.id, revision }
})
