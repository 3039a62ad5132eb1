import { changeConfiguration } from '#db/configuration'
import { allowFolders } from '#shared/api/site'
import { counted } from '#core/text/counted'
import { defineRoute } from '../../answers/route'
import { whoIs } from '../../store/configuration'
import { database } from '../../store/database'

export default defineRoute(allowFolders, async ({ event, body: { folders } }) => {
  const what = folders.length === 0 ? 'Took back the folders allowed for files' : `Allowed ${counted(folders.length, 'folder')} for files`
  await changeConfiguration(database(), whoIs(event), what, (editor) =>
    editor.db
      .updateTable('site')
      .set({ fileRoots: JSON.stringify(folders) })
      .execute(),
  )
  return { folders }
})
