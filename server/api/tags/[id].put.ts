import { changeConfiguration } from '#db/configuration'
import { asTag, tagColumns } from '#db/rows'
import { tagChange, type TagDraft } from '#shared/tags'
import { idOf, lockedRow, namesTaken, requireRevision, whoIs } from '../../lib/configuration'
import { database } from '../../lib/database'
import { bodyOf, defineRoute } from '../../lib/refusal'
import { settleTags, withLastingAddresses } from '../../lib/tags'

/** Changes a tag, unless somebody else did since. */
export default defineRoute('configure', async (event) => {
  const { revision, tag: typed } = await bodyOf(event, tagChange)
  const [tag] = (await withLastingAddresses(database(), [typed])) as [TagDraft]
  const change = changeConfiguration(database(), whoIs(event), `Changed tag ${tag.path}`, async (editor) => {
    const before = await lockedRow(editor, 'tag', idOf(event))
    await requireRevision(editor, 'tag', before, before.path, revision, asTag(before))
    const [ready] = await settleTags(editor.db, [tag], () => '')
    return editor.update('tag', before, tagColumns(ready!))
  })
  const { result } = await namesTaken('tag', tag.path, 'path', change)
  return asTag(result)
})
