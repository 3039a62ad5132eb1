import { getQuery } from 'h3'
import { fault } from '#core/faults/catalogue'
import { changeConfiguration } from '#db/configuration'
import { idOf, rowOf, whoIs } from '../../lib/configuration'
import { database } from '../../lib/database'
import { defineRoute, Refusal } from '../../lib/refusal'

/** Removes a link; with `?tags=remove` also the tags that read through it, else only if there are none. */
export default defineRoute('configure', async (event) => {
  const link = await rowOf('link', idOf(event))
  const withTags = getQuery(event).tags === 'remove'
  const { revision } = await changeConfiguration(database(), whoIs(event), `Removed link “${link.name}”`, async (editor) => {
    const tags = await editor.db.selectFrom('tag').selectAll().where('link_id', '=', link.id).execute()
    if (tags.length > 0 && !withTags) throw new Refusal(fault('entry.in-use', { name: link.name, tags: tags.length }))
    await editor.remove('tag', tags)
    await editor.remove('link', [link])
  })
  return { removed: link.id, revision }
})
