import { changeConfiguration } from '#db/configuration'
import { thingOf } from '#db/rows'
import { changeTag } from '#shared/api/tags'
import type { TagDraft } from '#shared/tags'
import { defineRoute } from '../../answers/route'
import { lockedRow, namesTaken, requireRevision, whoIs } from '../../store/configuration'
import { database } from '../../store/database'
import { renameEverywhere } from '../../tags/renaming'
import { settleTags, withLastingAddresses } from '../../tags/tags'

export default defineRoute(changeTag, async ({ event, params, body: { revision, tag: typed } }) => {
  const [tag] = (await withLastingAddresses(database(), [typed])) as [TagDraft]
  const change = changeConfiguration(database(), whoIs(event), `Changed tag ${tag.path}`, async (editor) => {
    const before = await lockedRow(editor, 'tag', params.id)
    await requireRevision(editor, 'tag', before, before.path, revision, thingOf('tag', before))
    const [ready] = await settleTags(editor.db, [tag], () => '')
    const row = await editor.update('tag', before, ready!)
    if (before.path === ready!.path) return row
    await renameEverywhere(editor, (path) => (path === before.path ? ready!.path : path))
    return lockedRow(editor, 'tag', params.id)
  })
  const { result } = await namesTaken('tag', tag.path, 'path', change)
  return thingOf('tag', result)
})
