import { changeConfiguration } from '#db/configuration'
import { makeLink } from '#shared/api/links'
import { defineRoute } from '../../answers/route'
import { shownLink } from '../../links/links'
import { requirePlace } from '../../nodes/nodes'
import { namesTaken, whoIs } from '../../store/configuration'
import { database } from '../../store/database'
import { sealed } from '../../store/secrets'

export default defineRoute(makeLink, async ({ event, body: link }) => {
  const change = changeConfiguration(database(), whoIs(event), `Made link “${link.name}”`, async (editor) => {
    await requirePlace(editor, link)
    return editor.insert('link', [{ ...link, settings: sealed(link.settings) }])
  })
  const { result } = await namesTaken('link', link.name, 'name', change)
  return shownLink(result[0]!)
})
