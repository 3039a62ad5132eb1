import { showBridge } from '#shared/api/bridges'
import { defineRoute } from '../../answers/route'
import { shownBridge } from '../../bridges/bridges'
import { rowOf } from '../../store/configuration'

export default defineRoute(showBridge, async ({ params }) => shownBridge(await rowOf('bridge', params.id)))
