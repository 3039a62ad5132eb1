import { changeConfiguration } from '#db/configuration'
import { changeDisplay } from '#shared/api/displays'
import { defineRoute } from '../../answers/route'
import { shownDisplay } from '../../displays/displays'
import { lockedRow, namesTaken, requireRevision, whoIs } from '../../store/configuration'
import { database } from '../../store/database'

export default defineRoute(changeDisplay, async ({ event, params, body: { revision, display } }) => {
  const change = changeConfiguration(database(), whoIs(event), `Changed display “${display.name}”`, async (editor) => {
    const before = await lockedRow(editor, 'display', params.id)
    await requireRevision(editor, 'display', before, before.name, revision, shownDisplay(before))
    return editor.update('display', before, display)
  })
  const { result } = await namesTaken('display', display.name, 'display.name', change)
  return shownDisplay(result)
})
