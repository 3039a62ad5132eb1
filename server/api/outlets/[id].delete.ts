import { changeConfiguration } from '#db/configuration'
import { idOf, rowOf, whoIs } from '../../lib/configuration'
import { database } from '../../lib/database'
import { defineRoute } from '../../lib/refusal'

/** Removes an outlet; its clients are disconnected. */
export default defineRoute('configure', async (event) => {
  const outlet = await rowOf('outlet', idOf(event))
  const { revision } = await changeConfiguration(database(), whoIs(event), `Removed outlet “${outlet.name}”`, (editor) =>
    editor.remove('outlet', [outlet]),
  )
  return { removed: outlet.id, revision }
})
