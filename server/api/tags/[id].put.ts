import { changeConfiguration } from '#db/configuration'
import { thingOf } from '#db/rows'
import { tagChange, type TagDraft } from '#shared/tags'
import { idOf, lockedRow, namesTaken, requireRevision, whoIs } from '../../store/configuration'
import { database } from '../../store/database'
import { bodyOf, defineRoute } from '../../answers/refusal'
import { settleTags, withLastingAddresses } from '../../tags/tags'

/** Changes a tag, unless somebody else did since. */
export default defineRoute('configure', async (event) => {
  const { revision, tag: typed } = await bodyOf(event, tagChange)
  const [tag] = (await withLastingAddresses(database(), [typed])) as [TagDraft]
  const change = changeConfiguration(database(), whoIs(event), `Changed tag ${tag.path}`, async (editor) => {
    const before = await lockedRow(editor, 'tag', idOf(event))
    await requireRevision(editor, 'tag', before, before.path, revision, thingOf('tag', before))
    const [ready] = await settleTags(editor.db, [tag], () => '')
    return editor.update('tag', before, ready!)
  })
  const { result } = await namesTaken('tag', tag.path, 'path', change)
  return thingOf('tag', result)
})
