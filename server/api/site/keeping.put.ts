import { forgetRevisions } from '#db/forget'
import { keepRevisions } from '#shared/api/site'
import { defineRoute } from '../../answers/route'
import { database } from '../../store/database'

export default defineRoute(keepRevisions, async ({ body: { days, most } }) => {
  await database().updateTable('site').set({ keep_days: days, keep_revisions: most }).execute()
  return { days, most, forgotten: await forgetRevisions(database()) }
})
