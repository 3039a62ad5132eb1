import { setResponseHeaders } from 'h3'
import { openMetrics } from '#core/statistics/openMetrics'
import { metrics } from '#shared/api/statistics'
import { defineRoute } from '../answers/route'
import { measuredParts } from '../statistics/parts'
import { engineClient } from '../runtime/engineClient'

export default defineRoute(metrics, async ({ event }) => {
  const [all, status, { disks }] = await engineClient.call((engine) => Promise.all([engine.statistics(), engine.status(), engine.upkeep()]))
  // OpenMetrics 1.0, 4.1
  setResponseHeaders(event, { 'content-type': 'application/openmetrics-text; version=1.0.0; charset=utf-8' })
  return openMetrics(measuredParts(all, status), { concerns: status.upkeep, disks })
})
