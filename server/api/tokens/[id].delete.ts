import { fault } from '#core/faults/catalogue'
import { changeConfiguration } from '#db/configuration'
import { forgetCallers } from '../../access/callers'
import { idOf, whoIs } from '../../store/configuration'
import { database } from '../../store/database'
import { defineRoute, Refusal } from '../../answers/refusal'

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
