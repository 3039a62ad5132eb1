import { showNodeDoor } from '#shared/api/nodes'
import { nodeDoor } from '#shared/nodes'
import { defineRoute } from '../../answers/route'
import { database } from '../../store/database'

export default defineRoute(showNodeDoor, async () => {
  const { nodeDoor: kept } = await database().selectFrom('site').select('nodeDoor').executeTakeFirstOrThrow()
  return { door: nodeDoor.nullable().catch(null).parse(kept) }
})
