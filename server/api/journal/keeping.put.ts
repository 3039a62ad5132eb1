import { changeConfiguration } from '#db/configuration'
import { keepJournal } from '#shared/api/journal'
import { defineRoute } from '../../answers/route'
import { whoIs } from '../../store/configuration'
import { database } from '../../store/database'

export default defineRoute(keepJournal, async ({ event, body: keeping }) => {
  await changeConfiguration(database(), whoIs(event), 'Changed where and how long events are kept', (editor) =>
    editor.db
      .updateTable('site')
      .set({ journal: JSON.stringify(keeping) })
      .execute(),
  )
  return keeping
})
