import { changeConfiguration } from '#db/configuration'
import { forgetCallers } from '../../lib/callers'
import { idOf, whoIs } from '../../lib/configuration'
import { database } from '../../lib/database'
import { personById, requireOtherAdministrator } from '../../lib/people'
import { defineRoute } from '../../lib/refusal'

/** Removes somebody; their sessions end. */
export default defineRoute('administer', async (event) => {
  const id = idOf(event)
  const person = await personById(database(), id)
  await changeConfiguration(database(), whoIs(event), `Removed “${person.name}”`, async ({ db }) => {
    await requireOtherAdministrator(db, person)
    await db.deleteFrom('person').where('id', '=', id).execute()
  })
  forgetCallers()
  return { removed: id }
})
