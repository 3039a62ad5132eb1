import { statisticsCourse } from '#shared/api/statistics'
import { valueOf } from '../../answers/refusal'
import { defineRoute } from '../../answers/route'
import { engineClient } from '../../runtime/engineClient'

export default defineRoute(statisticsCourse, async ({ query: { of, id } }) => ({
  minutes: valueOf(await engineClient.call((engine) => engine.statisticsCourse(of, id))),
}))
