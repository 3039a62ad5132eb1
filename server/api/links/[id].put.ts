import { changeConfiguration } from '#db/configuration'
import { thingOf } from '#db/rows'
import { changeLink } from '#shared/api/links'
import { defineRoute } from '../../answers/route'
import { refuseMovedSecrets, shownLink } from '../../links/links'
import { requirePlace } from '../../nodes/nodes'
import { lockedRow, namesTaken, requireKind, requireRevision, whoIs } from '../../store/configuration'
import { database } from '../../store/database'
import { sealed } from '../../store/secrets'

export default defineRoute(changeLink, async ({ event, params, body: { revision, link } }) => {
  const change = changeConfiguration(database(), whoIs(event), `Changed link “${link.name}”`, async (editor) => {
    const before = await lockedRow(editor, 'link', params.id)
    requireKind('link', before, link.kind)
    await requireRevision(editor, 'link', before, before.name, revision, shownLink(before))
    refuseMovedSecrets(link, thingOf('link', before))
    await requirePlace(editor, link)
    const { name, on, nodeId } = link
    return editor.update('link', before, { name, on, nodeId, settings: sealed(link.settings, before.settings) })
  })
  const { result } = await namesTaken('link', link.name, 'name', change)
  return shownLink(result)
})
