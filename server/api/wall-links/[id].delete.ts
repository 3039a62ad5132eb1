import { fault } from '#core/faults/catalogue'
import { changeConfiguration } from '#db/configuration'
import { takeWallLinkBack } from '#shared/api/displays'
import { Refusal } from '../../answers/refusal'
import { defineRoute } from '../../answers/route'
import { whoIs } from '../../store/configuration'
import { database } from '../../store/database'

export default defineRoute(takeWallLinkBack, async ({ event, params: { id } }) => {
  await changeConfiguration(database(), whoIs(event), 'Ended a wall link', async (editor) => {
    const link = await editor.db.deleteFrom('wall_link').where('id', '=', id).returning('name').executeTakeFirst()
    if (!link) throw new Refusal(fault('entry.gone', { thing: 'wall link', id }))
    editor.what = `Ended the wall link “${link.name}”`
  })
  return { removed: id }
})
