import { changeConfiguration } from '#db/configuration'
import { thingOf } from '#db/rows'
import { newTags } from '#shared/tags'
import { namesTaken, whoIs } from '../../store/configuration'
import { database } from '../../store/database'
import { bodyOf, defineRoute, manyBytes } from '../../answers/refusal'
import { settleTags, withLastingAddresses } from '../../tags/tags'

/** Makes tags: all of them, or, where one is not right, none. */
export default defineRoute('configure', async (event) => {
  const typed = await bodyOf(event, newTags, manyBytes)
  const tags = await withLastingAddresses(database(), typed.tags)
  const what = tags.length === 1 ? `Made tag ${tags[0]!.path}` : `Made ${tags.length} tags`
  const change = changeConfiguration(database(), whoIs(event), what, async (editor) => {
    const ready = await settleTags(editor.db, tags, (index) => `tags.${index}.`)
    return editor.insert('tag', ready)
  })
  const { result } = await namesTaken('tag', tags[0]!.path, 'tags.0.path', change)
  return result.map((row) => thingOf('tag', row))
})
