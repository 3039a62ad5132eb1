import { fillWallPane } from '#shared/api/displays'
import { defineRoute } from '../../answers/route'
import { contentOf } from '../../displays/content'
import { wallPane } from '../../displays/walls'

export default defineRoute(fillWallPane, async ({ body: { token, in: wanted, pane, columns } }) => {
  const { shows, equipment } = await wallPane(token, pane, wanted)
  return shows ? contentOf(shows, equipment, columns) : { kind: 'live' as const }
})
