import { changeConfiguration } from '#db/configuration'
import { thingOf } from '#db/rows'
import { makeTags } from '#shared/api/tags'
import { defineRoute } from '../../answers/route'
import { namesTaken, whoIs } from '../../store/configuration'
import { database } from '../../store/database'
import { settleTags, withLastingAddresses } from '../../tags/tags'

export default defineRoute(makeTags, async ({ event, body }) => {
  const tags = await withLastingAddresses(database(), body.tags)
  const what = tags.length === 1 ? `Made tag ${tags[0]!.path}` : `Made ${tags.length} tags`
  const change = changeConfiguration(database(), whoIs(event), what, async (editor) => {
    const ready = await settleTags(editor.db, tags, (index) => `tags.${index}.`)
    return editor.insert('tag', ready)
  })
  const { result } = await namesTaken('tag', tags[0]!.path, 'tags.0.path', change)
  return result.map((row) => thingOf('tag', row))
})
