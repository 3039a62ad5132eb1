import { changeConfiguration } from '#db/configuration'
import { setNodeDoor } from '#shared/api/nodes'
import { defineRoute } from '../../answers/route'
import { whoIs } from '../../store/configuration'
import { database } from '../../store/database'

export default defineRoute(setNodeDoor, async ({ event, body: { door } }) => {
  const what = door ? `Nodes come in at ${door.interface}:${door.port}` : 'Nodes come in nowhere'
  await changeConfiguration(database(), whoIs(event), what, (editor) =>
    editor.db
      .updateTable('site')
      .set({ nodeDoor: door && JSON.stringify(door) })
      .execute(),
  )
  return { door }
})
