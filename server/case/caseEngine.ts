import { alarmWays, isAlarmAsked } from '#core/alarms/paged'
import { holds, type CallFilter, type CallPage } from '#core/calls/callBook'
import { fault } from '#core/faults/catalogue'
import { severityOf, type Severity } from '#core/tags/quality'
import { pageOfArray, type Page } from '#core/lists/paged'
import type { Alarm, AlarmsAsked } from '#shared/alarms'
import type { CallTotals } from '#shared/calls'
import type { PathKind, PathRecord } from '#shared/diagnosis'
import type { Answer, EngineApi } from '#shared/rpc'
import type { Effect, EngineStatus } from '#shared/status'
import type { TrafficPart } from '#shared/traffic'
import type { LiveValue } from '#shared/values'
import type { CaseParts } from '../handover/caseParts'

export type Told = Pick<CaseParts, 'status' | 'statistics' | 'checks' | 'passed' | 'calls' | 'values' | 'alarms'>

/**
 * In the place of the engine where this copy looks at the case of another site: it tells what the engine there told when the
 * pack was made. What it does not have is not asked of anybody.
 */
export class CaseEngine implements Partial<EngineApi> {
  private valueById: Map<number, LiveValue>
  private callsByOutlet: Map<number, Told['calls'][number]>

  constructor(
    private told: Told,
    private deliver: (viewer: string, values: LiveValue[]) => void,
  ) {
    this.valueById = new Map(told.values.map((value) => [value.id, value]))
    this.callsByOutlet = new Map(told.calls.map((one) => [one.outlet, one]))
  }

  status = (): EngineStatus => this.told.status
  statistics = () => this.told.statistics
  effect = (revision: number): Promise<Effect> => Promise.resolve({ revision, state: 'unknown', node: null, waits: [], things: [] })
  pathRecords = (of: PathKind, id: number): Answer<PathRecord[]> =>
    answered(this.told.checks.filter((check) => check.of === of && check.id === id))

  calls = (outletId: number, filter: CallFilter, most: number): Answer<CallPage> => {
    const all = this.callsByOutlet.get(outletId)?.calls ?? []
    const words = (filter.text ?? '').toLowerCase().split(/\s+/).filter(Boolean)
    const { after = 0, before = Infinity, client, outcome } = filter
    const found = all.filter(
      (call) =>
        call.n > after &&
        call.n < before &&
        (client === undefined || call.client.id === client) &&
        (outcome === undefined || call.outcome === outcome) &&
        holds(call, words),
    )
    return answered({ calls: found.slice(0, most), last: all[0]?.n ?? 0, first: all.at(-1)?.n ?? 1 })
  }

  callTotals = (outletId: number): Answer<CallTotals> => {
    const found = this.callsByOutlet.get(outletId)
    return found ? answered(found.totals) : { ok: false, fault: fault('entry.gone', { thing: 'outlet', id: outletId }) }
  }

  traffic = (of: 'link' | 'outlet', id: number, after: number | null, most: number): Answer<TrafficPart> => {
    const pieces = this.told.passed.find((one) => one.of === of && one.id === id)?.pieces ?? []
    // whoever begins sees all that there is, for nothing more will come
    const from = after ?? 0
    const frames = pieces.slice(from, from + most).map(({ peer: _, ...piece }, i) => ({ n: from + i, ...piece }))
    const peers = new Map(pieces.map(({ connection, peer }) => [connection, peer]))
    const connections = [...peers].map(([connection, peer]) => ({ id: connection, peer, here: '' }))
    return answered({ frames, next: from + frames.length, lost: 0, connections })
  }

  alarms = (asked: AlarmsAsked): Page<Alarm> => {
    const all = this.told.alarms.filter((one) => isAlarmAsked(one, asked))
    return pageOfArray(all, asked, ways)
  }

  valuesOf = (ids: number[]): LiveValue[] => ids.flatMap((id) => this.valueById.get(id) ?? [])
  ofQuality = (severity: Severity): number[] =>
    this.told.values.flatMap(({ id, quality }) => (severityOf(quality) === severity ? [id] : []))
  watch = (viewer: string, ids: number[]) => this.deliver(viewer, this.valuesOf(ids))
  leave = () => {}
  stop = () => {}
  findings = () => []
  experience = () => ({})
  trends = () => []
  journalMemory = () => null
  forwarding = () => null
}

const ways = alarmWays((one: Alarm) => one)

const answered = <T>(value: T): Answer<T> => ({ ok: true, value })
