import type { MeasuredPart } from '#core/statistics/openMetrics'
import type { AllStatistics } from '#shared/statistics'
import type { EngineStatus } from '#shared/status'

const byId = <T extends { id: number }>(all: readonly T[]) => new Map(all.map((one) => [one.id, one]))

/** Everything that is measured. The whole has an empty part or client: whoever adds parts up leaves it out. */
export const measuredParts = (all: AllStatistics, status: EngineStatus): MeasuredPart[] => {
  const [links, outlets, bridges] = [byId(status.links), byId(status.outlets), byId(status.bridges)]
  return [
    ...all.links.flatMap(({ id, name, kind, whole, parts, ...passed }): MeasuredPart[] => {
      const state = links.get(id)
      const more = { ...passed, isFlowing: state?.flow === 'flowing', tags: state?.tags ?? 0, goodTags: state?.goodTags ?? 0 }
      return [
        { of: 'link', labels: { link: name, kind, part: '' }, measured: whole, more },
        ...parts.map((part): MeasuredPart => ({ of: 'link', labels: { link: name, kind, part: part.name }, measured: part.measured })),
      ]
    }),
    ...all.outlets.flatMap(({ id, name, kind, whole, clients, ...passed }): MeasuredPart[] => {
      const state = outlets.get(id)
      const more = { ...passed, isFlowing: state?.flow === 'flowing', clients: state?.clients.length ?? 0 }
      const labels = { outlet: name, kind, client: '', from: '', as: '' }
      return [
        { of: 'outlet', labels, measured: whole, more },
        ...clients.map(({ client, measured }): MeasuredPart => ({
          ...{ of: 'outlet', measured },
          labels: { ...labels, client: client.name, from: client.from, as: client.as },
        })),
      ]
    }),
    ...all.bridges.flatMap(({ id, name, whole, parts }): MeasuredPart[] => [
      { of: 'bridge', labels: { bridge: name, part: '' }, measured: whole, more: { isFlowing: bridges.get(id)?.flow === 'flowing' } },
      ...parts.map((part): MeasuredPart => ({ of: 'bridge', labels: { bridge: name, part: part.name }, measured: part.measured })),
    ]),
  ]
}
