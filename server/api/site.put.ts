import { z } from 'zod'
import { changeConfiguration } from '#db/configuration'
import { nameField } from '#shared/fields'
import { whoIs } from '../store/configuration'
import { database } from '../store/database'
import { bodyOf, defineRoute } from '../answers/refusal'

/** Names the site. */
export default defineRoute('configure', async (event) => {
  const { name } = await bodyOf(event, z.object({ name: nameField('site') }))
  await changeConfiguration(database(), whoIs(event), `Named the site “${name}”`, (editor) =>
    editor.db.updateTable('site').set({ name }).execute(),
  )
  return { name }
})
