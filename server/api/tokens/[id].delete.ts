import { fault } from '#core/faults/catalogue'
import { changeConfiguration } from '#db/configuration'
import { forgetCallers } from '../../lib/callers'
import { idOf, whoIs } from '../../lib/configuration'
import { database } from '../../lib/database'
import { defineRoute, Refusal } from '../../lib/refusal'

/** Takes a token back; whoever carries it is a stranger from now on. */
export default defineRoute('administer', async (event) => {
  const id = idOf(event)
  await changeConfiguration(database(), whoIs(event), 'Took back a token', async (editor) => {
    const token = await editor.db.deleteFrom('api_token').where('id', '=', id).returning('name').executeTakeFirst()
    if (!token) throw new Refusal(fault('entry.gone', { thing: 'token', id }))
    editor.what = `Took back the token “${token.name}”`
  })
  forgetCallers()
  return { removed: id }
})
