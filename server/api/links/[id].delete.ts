import { fault } from '#core/faults/catalogue'
import { changeConfiguration } from '#db/configuration'
import { removeLink } from '#shared/api/links'
import { Refusal } from '../../answers/refusal'
import { defineRoute } from '../../answers/route'
import { bridgesOver } from '../../bridges/bridges'
import { outletsOver } from '../../outlets/outlets'
import { lockedRow, whoIs } from '../../store/configuration'
import { database } from '../../store/database'

export default defineRoute(removeLink, async ({ event, params, query }) => {
  const { revision } = await changeConfiguration(database(), whoIs(event), 'Removed a link', async (editor) => {
    const link = await lockedRow(editor, 'link', params.id)
    editor.what = `Removed link “${link.name}”`
    const bridges = [...(await bridgesOver(editor.db, 'linkId', link.id)), ...(await outletsOver(editor.db, link.id))]
    if (bridges.length > 0)
      throw new Refusal(fault('entry.bridged', { name: link.name, bridges: bridges.map((name) => `“${name}”`).join(', ') }))
    const sets = await editor.db.selectFrom('recordSet').select('id').where('linkId', '=', link.id).execute()
    const tags = await editor.db
      .selectFrom('tag')
      .select('id')
      .where((eb) => eb.or([eb('link_id', '=', link.id), eb('set_id', '=', eb.fn.any(eb.val(sets.map(({ id }) => id))))]))
      .execute()
    if (tags.length + sets.length > 0 && !query.tags) throw new Refusal(fault('entry.in-use', { name: link.name, tags: tags.length }))
    await editor.remove('tag', tags)
    await editor.remove('recordSet', sets)
    await editor.remove('link', [link])
  })
  return { removed: params.id, revision }
})
