import { changeConfiguration } from '#db/configuration'
import { removeTags } from '#shared/api/tags'
import { defineRoute } from '../../answers/route'
import { requireNotOwned } from '../../equipment/owned'
import { whoIs } from '../../store/configuration'
import { database } from '../../store/database'

export default defineRoute(removeTags, async ({ event, body: { ids } }) => {
  const { result, revision } = await changeConfiguration(database(), whoIs(event), 'Removed tags', async (editor) => {
    const rows = await editor.rows('tag', ids)
    requireNotOwned(rows)
    editor.what = removedText(rows)
    await editor.remove('tag', rows)
    return rows
  })
  return { removed: result.length, revision }
})

const removedText = (rows: readonly { path: string }[]) =>
  rows.length === 1 ? `Removed tag ${rows[0]!.path}` : `Removed ${rows.length} tags`
