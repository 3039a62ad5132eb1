import { changeConfiguration } from '#db/configuration'
import { thingOf } from '#db/rows'
import { linkChange } from '#shared/links/link'
import { idOf, lockedRow, namesTaken, requireKind, requireRevision, whoIs } from '../../store/configuration'
import { database } from '../../store/database'
import { refuseMovedSecrets, shownLink } from '../../links/links'
import { bodyOf, defineRoute } from '../../answers/refusal'
import { sealed } from '../../store/secrets'

/** Changes a link, unless somebody else did since. */
export default defineRoute('configure', async (event) => {
  const { revision, link } = await bodyOf(event, linkChange)
  const change = changeConfiguration(database(), whoIs(event), `Changed link “${link.name}”`, async (editor) => {
    const before = await lockedRow(editor, 'link', idOf(event))
    requireKind('link', before, link.kind)
    await requireRevision(editor, 'link', before, before.name, revision, shownLink(before))
    refuseMovedSecrets(link, thingOf('link', before))
    return editor.update('link', before, { name: link.name, on: link.on, settings: sealed(link.settings, before.settings) })
  })
  const { result } = await namesTaken('link', link.name, 'name', change)
  return shownLink(result)
})
