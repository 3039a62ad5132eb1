import { counted } from '#core/text/counted'
import type { BridgeStatus } from '#shared/bridges/status'
import type { Flow } from '#shared/flow'
import type { EngineStatus } from '#shared/status'

/** What the conduit strip shows: a count and a note per station, and the state of the pipe between them. */
export const useConduit = () => {
  const live = useLive()
  const lists = useLists()

  const linkFlows = computed(() => live.status?.links.map((link) => link.flow) ?? [])
  /** What was plugged in and nobody decided about. */
  const arrivals = computed(() => live.status?.links.reduce((total, link) => total + (link.arrivals ?? 0), 0) ?? 0)
  const outletFlows = computed(() => live.status?.outlets.map((outlet) => outlet.flow) ?? [])
  const bridges = computed(() => live.status?.bridges ?? [])
  const clients = computed(() => live.status?.outlets.reduce((total, outlet) => total + outlet.clients.length, 0) ?? 0)
  const notGood = computed(() => (live.status ? live.status.tags - live.status.goodTags : 0))

  const counts = computed<Record<string, { count: number; note: string; flow: Flow | null }>>(() => ({
    Links: {
      count: lists.links.length,
      note: arrivals.value > 0 ? `${arrivals.value} arrived` : flowNote(linkFlows.value),
      flow: worst(linkFlows.value),
    },
    Tags: {
      count: live.status?.tags ?? 0,
      note: !live.status?.tags ? '' : notGood.value > 0 ? `${notGood.value.toLocaleString('en-GB')} not good` : 'all good',
      flow: notGood.value > 0 ? 'late' : null,
    },
    Equipment: equipmentCount(live.status?.equipment ?? null),
    Bridges: { count: lists.bridges.length, note: bridgeNote(bridges.value), flow: worst(bridges.value.map(({ flow }) => flow)) },
    Outlets: {
      count: lists.outlets.length,
      note: lists.outlets.length > 0 ? counted(clients.value, 'client') : '',
      flow: worst(outletFlows.value),
    },
  }))

  /** The stretch before each station but the first. */
  const stretches = computed<Record<string, Flow>>(() => ({
    Tags: linkFlows.value.length === 0 ? 'off' : (worst(linkFlows.value) ?? 'flowing'),
    Equipment: equipmentFlow(live.status?.equipment ?? null),
    Bridges: bridges.value.length === 0 ? 'off' : (worst(bridges.value.map(({ flow }) => flow)) ?? 'flowing'),
    Outlets: outletFlows.value.length === 0 ? 'off' : (worst(outletFlows.value) ?? 'flowing'),
  }))

  /** Of limits that are crossed, or were and nobody saw it yet. */
  const alarms = computed<{ count: number; note: string; flow: Flow | null }>(() => {
    const { active = 0, unseen = 0, worst: severest = null } = live.status?.alarms ?? {}
    const parts = [active > 0 && `${active.toLocaleString('en-GB')} active`, unseen > 0 && `${unseen.toLocaleString('en-GB')} unseen`]
    const flow = severest === 'trouble' ? 'broken' : severest === 'caution' ? 'late' : null
    return { count: Math.max(active, unseen), note: parts.filter(Boolean).join(' · '), flow }
  })

  /** What the places beside the conduit have to say, by their paths. */
  const notes = computed<Record<string, { note: string; flow: Flow | null }>>(() => ({
    ...(alarms.value.count > 0 && { '/alarms': alarms.value }),
    ...upkeepNote(live.status?.upkeep),
  }))

  return { counts, stretches, notes }
}

const upkeepNote = (upkeep: EngineStatus['upkeep'] | undefined): Record<string, { note: string; flow: Flow | null }> => {
  const { now = 0, soon = 0 } = upkeep ?? {}
  if (now + soon === 0) return {}
  return { '/site': { note: `${now + soon} to be seen to`, flow: now > 0 ? 'broken' : 'late' } }
}

type EquipmentStatus = EngineStatus['equipment']
/** What is not bound counts as trouble: nobody else would tell. */
const equipmentFlow = (status: EquipmentStatus | null): Flow =>
  !status || status.pieces === 0 ? 'off' : status.unbound > 0 ? 'late' : 'flowing'
const equipmentCount = (status: EquipmentStatus | null) => ({
  count: status?.pieces ?? 0,
  note: !status || status.pieces === 0 ? '' : status.unbound > 0 ? `${status.unbound.toLocaleString('en-GB')} unbound` : 'all bound',
  flow: status && status.pieces > 0 ? equipmentFlow(status) : null,
})

const severity: Flow[] = ['broken', 'late', 'off', 'flowing']

/** One broken among sound ones makes the whole stretch late; all broken, broken. */
const worst = (flows: Flow[]): Flow | null => {
  const running: Flow[] = flows.filter((flow) => flow !== 'off')
  if (running.length === 0) return flows.length > 0 ? 'off' : null
  if (running.every((flow) => flow === 'broken')) return 'broken'
  const found = severity.find((flow) => running.includes(flow))!
  return found === 'broken' ? 'late' : found
}

/** What bridges hold for receivers that are away goes before all else. */
const bridgeNote = (bridges: readonly BridgeStatus[]) => {
  const kept = bridges.reduce(
    (total, { destinations }) => total + destinations.reduce((sum, one) => sum + (one.fault ? one.kept : 0), 0),
    0,
  )
  if (kept > 0) return `holding ${kept.toLocaleString('en-GB')}`
  return flowNote(bridges.map(({ flow }) => flow))
}

const flowNote = (flows: Flow[]) => {
  const of = (flow: Flow) => flows.filter((other) => other === flow).length
  const parts = [
    [of('broken'), 'broken'],
    [of('late'), 'late'],
    [of('off'), 'off'],
  ].filter(([count]) => count !== 0)
  if (flows.length === 0) return ''
  return parts.length > 0 ? parts.map(([count, word]) => `${count} ${word}`).join(' · ') : 'all flowing'
}
