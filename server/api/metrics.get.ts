import { setResponseHeaders } from 'h3'
import { openMetrics, type MeasuredPart } from '#core/statistics/openMetrics'
import { metrics } from '#shared/api/statistics'
import type { LinkStatistics } from '#shared/statistics'
import type { LinkStatus } from '#shared/status'
import { defineRoute } from '../answers/route'
import { engineClient } from '../runtime/engineClient'

export default defineRoute(metrics, async ({ event }) => {
  const [all, { links }] = await engineClient.call((engine) => Promise.all([engine.linkStatistics(), engine.status()]))
  const states = new Map(links.map((link) => [link.id, link]))
  // OpenMetrics 1.0, 4.1
  setResponseHeaders(event, { 'content-type': 'application/openmetrics-text; version=1.0.0; charset=utf-8' })
  return openMetrics(all.flatMap((link) => partsOf(link, states.get(link.id))))
})

const partsOf = (
  { name, kind, whole, parts, bytesIn, bytesOut, connections }: LinkStatistics,
  state: LinkStatus | undefined,
): MeasuredPart[] => {
  const more = {
    bytesIn,
    bytesOut,
    connections,
    isFlowing: state?.flow === 'flowing',
    tags: state?.tags ?? 0,
    goodTags: state?.goodTags ?? 0,
  }
  return [
    // what a link with parts sums up would be counted twice by whoever adds them up
    { labels: { link: name, kind, part: '' }, measured: whole, more },
    ...parts.map((part) => ({ labels: { link: name, kind, part: part.name }, measured: part.measured })),
  ]
}
