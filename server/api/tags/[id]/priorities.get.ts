import { tagPriorities } from '#shared/api/tags'
import { valueOf } from '../../../answers/refusal'
import { defineRoute } from '../../../answers/route'
import { engineClient } from '../../../runtime/engineClient'

export default defineRoute(tagPriorities, async ({ params }) => valueOf(await engineClient.call((engine) => engine.priorities(params.id))))
