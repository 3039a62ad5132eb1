import { listNodes } from '#shared/api/nodes'
import { defineRoute } from '../../answers/route'
import { allNodes } from '../../nodes/nodes'

export default defineRoute(listNodes, () => allNodes())
