import { folderOf } from '#core/tags/path'
import { listFolders } from '#shared/api/tags'
import { pageOfArray } from '#core/lists/paged'
import { defineRoute } from '../../answers/route'
import { database } from '../../store/database'

export default defineRoute(listFolders, async ({ query }) => {
  const rows = await database().selectFrom('tag').select('path').execute()
  const folders = new Set<string>()
  for (const { path } of rows) for (let at = folderOf(path); at !== '' && !folders.has(at); at = folderOf(at)) folders.add(at)
  return pageOfArray([...folders], query, { text: String, by: { path: String } })
})
