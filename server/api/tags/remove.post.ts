import { z } from 'zod'
import { changeConfiguration } from '#db/configuration'
import { whoIs } from '../../lib/configuration'
import { database } from '../../lib/database'
import { bodyOf, defineRoute } from '../../lib/refusal'
import { tagRowsByIds } from '../../lib/tags'

/** Removes tags. Those that are gone already are no error. */
export default defineRoute('configure', async (event) => {
  const { ids } = await bodyOf(event, z.object({ ids: z.array(z.int()).min(1).max(5000) }))
  const rows = await tagRowsByIds(database(), ids)
  const what = rows.length === 1 ? `Removed tag ${rows[0]!.path}` : `Removed ${rows.length} tags`
  const { revision } = await changeConfiguration(database(), whoIs(event), what, (editor) => editor.remove('tag', rows))
  return { removed: rows.length, revision }
})
