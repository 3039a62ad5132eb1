import { fault } from '#core/faults/catalogue'
import { changeConfiguration } from '#db/configuration'
import { forgetCallers } from '../../lib/callers'
import { idOf, whoIs } from '../../lib/configuration'
import { database } from '../../lib/database'
import { defineRoute, Refusal } from '../../lib/refusal'

/** Takes a token back; whoever carries it is a stranger from now on. */
export default defineRoute('administer', async (event) => {
  const id = idOf(event)
  const token = await database().selectFrom('api_token').select('name').where('id', '=', id).executeTakeFirst()
  if (!token) throw new Refusal(fault('entry.gone', { thing: 'token', id }))
  await changeConfiguration(database(), whoIs(event), `Took back the token “${token.name}”`, ({ db }) =>
    db.deleteFrom('api_token').where('id', '=', id).execute(),
  )
  forgetCallers()
  return { removed: id }
})
