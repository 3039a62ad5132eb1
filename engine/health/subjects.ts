import type { HealthKind, HealthSubject } from '#core/statistics/health'
import type { Meters } from '#core/statistics/meters'
import type { BridgeRunner } from '../bridges/bridgeRunner'
import type { LinkRunner } from '../links/linkRunner'
import type { OutletRunner } from '../outlets/outletRunner'

interface Around {
  allLinks(): Iterable<[number, LinkRunner]>
  allOutlets(): Iterable<[number, OutletRunner]>
  bridges: { all(): Iterable<BridgeRunner> }
}

/** Links, outlets and bridges as health tags see them, by their names; null: there is none of this name. */
export const healthSubjects =
  (around: Around) =>
  (kind: HealthKind, name: string): HealthSubject | null => {
    if (kind === 'bridge') return named(name, around.bridges.all(), (bridge) => bridge, ofBridge)
    return kind === 'link' ? named(name, around.allLinks(), second, ofLink) : named(name, around.allOutlets(), second, ofOutlet)
  }

const second = <T>([, one]: [number, T]) => one

const named = <E, T extends { name: string }>(name: string, all: Iterable<E>, of: (entry: E) => T, told: (one: T) => HealthSubject) => {
  for (const entry of all) if (of(entry).name === name) return told(of(entry))
  return null
}

const measuredBy = (meters: Meters) => {
  const { whole, parts } = meters.told(Date.now())
  return { measured: whole, course: meters.course, part: (name: string) => parts.find(([part]) => part === name)?.[1] ?? null }
}

const ofLink = (link: LinkRunner): HealthSubject => {
  const { flow, sentence, tags, goodTags } = link.status()
  const { bytesIn, bytesOut, connections } = link.statistics()
  const more = { tags, good_tags: goodTags, bytes_in: bytesIn, bytes_out: bytesOut, connections }
  return { of: 'link', name: link.name, flow, sentence, ...measuredBy(link.meters), more }
}

const ofOutlet = (outlet: OutletRunner): HealthSubject => {
  const { flow, sentence, clients, items, changesPerSecond } = outlet.status()
  const { bytesIn, bytesOut, connections, clients: totals } = outlet.statistics()
  return {
    ...{ of: 'outlet', name: outlet.name, flow, sentence },
    ...measuredBy(outlet.calls.meters),
    // one client may come from several places; the busiest of them is shown
    part: (name) => totals.find(({ client }) => client.name === name)?.measured ?? null,
    more: {
      ...{ clients: clients.length, items, changes_per_second: changesPerSecond },
      ...{ bytes_in: bytesIn, bytes_out: bytesOut, connections },
    },
  }
}

const ofBridge = (bridge: BridgeRunner): HealthSubject => {
  const { flow, sentence, runs, destinations } = bridge.status()
  const sum = (of: 'kept' | 'aside') => destinations.reduce((total, one) => total + one[of], 0)
  return {
    ...{ of: 'bridge', name: bridge.name, flow, sentence },
    ...measuredBy(bridge.meters),
    more: { runs, waiting: sum('kept'), refused: sum('aside') },
  }
}
