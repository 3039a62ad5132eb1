import { changeConfiguration } from '#db/configuration'
import { nameSite } from '#shared/api/site'
import { defineRoute } from '../../answers/route'
import { whoIs } from '../../store/configuration'
import { database } from '../../store/database'

export default defineRoute(nameSite, async ({ event, body: { name, zone } }) => {
  const { result } = await changeConfiguration(database(), whoIs(event), `Named the site “${name}”`, (editor) =>
    editor.db
      .updateTable('site')
      .set({ name, ...(zone === undefined ? {} : { zone }) })
      .returning(['name', 'zone'])
      .executeTakeFirstOrThrow(),
  )
  return result
})
