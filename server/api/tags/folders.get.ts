import { folderOf } from '#core/tags/path'
import { database } from '../../store/database'
import { defineRoute } from '../../answers/refusal'

/** Every folder that holds a tag, at any depth. */
export default defineRoute('look', async () => {
  const rows = await database().selectFrom('tag').select('path').execute()
  const folders = new Set<string>()
  for (const { path } of rows) for (let at = folderOf(path); at !== '' && !folders.has(at); at = folderOf(at)) folders.add(at)
  return { folders: [...folders].sort() }
})
