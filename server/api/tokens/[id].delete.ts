import { fault } from '#core/faults/catalogue'
import { changeConfiguration } from '#db/configuration'
import { takeTokenBack } from '#shared/api/people'
import { forgetCallers } from '../../access/callers'
import { Refusal } from '../../answers/refusal'
import { defineRoute } from '../../answers/route'
import { whoIs } from '../../store/configuration'
import { database } from '../../store/database'

export default defineRoute(takeTokenBack, async ({ event, params: { id } }) => {
  await changeConfiguration(database(), whoIs(event), 'Took back a token', async (editor) => {
    const token = await editor.db.deleteFrom('api_token').where('id', '=', id).returning('name').executeTakeFirst()
    if (!token) throw new Refusal(fault('entry.gone', { thing: 'token', id }))
    editor.what = `Took back the token “${token.name}”`
  })
  forgetCallers()
  return { removed: id }
})
