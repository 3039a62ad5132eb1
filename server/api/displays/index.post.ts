import { changeConfiguration } from '#db/configuration'
import { makeDisplay } from '#shared/api/displays'
import { defineRoute } from '../../answers/route'
import { shownDisplay } from '../../displays/displays'
import { namesTaken, whoIs } from '../../store/configuration'
import { database } from '../../store/database'

export default defineRoute(makeDisplay, async ({ event, body: display }) => {
  const change = changeConfiguration(database(), whoIs(event), `Made display “${display.name}”`, (editor) =>
    editor.insert('display', [display]),
  )
  const { result } = await namesTaken('display', display.name, 'name', change)
  return shownDisplay(result[0]!)
})
