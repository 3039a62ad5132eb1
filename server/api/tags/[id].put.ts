import { changeConfiguration } from '#db/configuration'
import { asTag, tagColumns } from '#db/rows'
import { tagChange } from '#shared/tags'
import { idOf, lockedRow, namesTaken, requireRevision, whoIs } from '../../lib/configuration'
import { database } from '../../lib/database'
import { bodyOf, defineRoute } from '../../lib/refusal'
import { settleTags } from '../../lib/tags'

/** Changes a tag, unless somebody else did since. */
export default defineRoute('configure', async (event) => {
  const { revision, tag } = await bodyOf(event, tagChange)
  const change = changeConfiguration(database(), whoIs(event), `Changed tag ${tag.path}`, async (editor) => {
    const before = await lockedRow(editor, 'tag', idOf(event))
    await requireRevision(editor, 'tag', before, before.path, revision, asTag(before))
    const [ready] = await settleTags(editor.db, [tag], () => '')
    return editor.update('tag', before, tagColumns(ready!))
  })
  const { result } = await namesTaken('tag', tag.path, 'path', change)
  return asTag(result)
})
