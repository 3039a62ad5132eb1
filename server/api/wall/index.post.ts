import { showWall } from '#shared/api/displays'
import { defineRoute } from '../../answers/route'
import { wallNow } from '../../displays/walls'

export default defineRoute(showWall, ({ body: { token, in: equipment } }) => wallNow(token, equipment))
