import { z } from 'zod'
import { idField } from '#shared/fields'
import { changeConfiguration } from '#db/configuration'
import { whoIs } from '../../store/configuration'
import { database } from '../../store/database'
import { bodyOf, defineRoute } from '../../answers/refusal'

/** Removes tags. Those that are gone already are no error. */
export default defineRoute('configure', async (event) => {
  const { ids } = await bodyOf(event, z.object({ ids: z.array(idField('An id')).min(1).max(5000) }))
  const { result, revision } = await changeConfiguration(database(), whoIs(event), 'Removed tags', async (editor) => {
    const rows = await editor.rows('tag', ids)
    editor.what = removedText(rows)
    await editor.remove('tag', rows)
    return rows
  })
  return { removed: result.length, revision }
})

const removedText = (rows: readonly { path: string }[]) =>
  rows.length === 1 ? `Removed tag ${rows[0]!.path}` : `Removed ${rows.length} tags`
