import { showSite } from '#shared/api/site'
import { defineRoute } from '../../answers/route'
import { caseHeadNow } from '../../case/caseHead'
import { database } from '../../store/database'

export default defineRoute(showSite, async () => {
  const { name, revision, keep_days, keep_revisions, fileRoots, zone } = await database()
    .selectFrom('site')
    .selectAll()
    .executeTakeFirstOrThrow()
  return { case: await caseHeadNow(), name, revision, keeping: { days: keep_days, most: keep_revisions }, folders: fileRoots, zone }
})
