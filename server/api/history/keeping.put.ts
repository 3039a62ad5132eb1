import { changeConfiguration } from '#db/configuration'
import { keepHistory } from '#shared/api/history'
import { defineRoute } from '../../answers/route'
import { whoIs } from '../../store/configuration'
import { database } from '../../store/database'

export default defineRoute(keepHistory, async ({ event, body: keeping }) => {
  await changeConfiguration(database(), whoIs(event), 'Changed how long history is kept', (editor) =>
    editor.db
      .updateTable('site')
      .set({ history: JSON.stringify(keeping) })
      .execute(),
  )
  return keeping
})
