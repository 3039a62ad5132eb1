import { isFault, type Fault } from '#core/faults/catalogue'
import type { BenchReading } from '#shared/bench'
import type { EngineApi, WebApi } from '#shared/rpc'
import type { AllStatistics } from '#shared/statistics'
import type { CheckStep } from '#shared/status'
import type { EngineFunctions } from '../rpc/api'
import type { Nodes } from './nodes'

type Args = readonly unknown[]
/** On which node a call is to be answered; null: here. */
type Rule = (args: Args, nodes: Nodes) => number | null

const byLink =
  (i: number): Rule =>
  (args, nodes) =>
    nodes.nodeOfLink(args[i] as number)
/** Something that names a link beside other things. */
const byLinkOf =
  (i: number): Rule =>
  (args, nodes) =>
    nodes.nodeOfLink((args[i] as { linkId?: number } | null)?.linkId)
/** Something that is placed, or the draft of it. */
const byDraft =
  (i: number): Rule =>
  (args) =>
    (args[i] as { nodeId?: number | null } | null)?.nodeId ?? null
/** A kind of thing, and its number. */
const byThing =
  (i: number): Rule =>
  (args, nodes) => {
    const [of, id] = [args[i], args[i + 1] as number]
    if (of === 'outlet' || of === 'bridge') return nodes.nodeOf(of, id)
    return of === 'link' ? nodes.nodeOfLink(id) : of === 'tag' ? nodes.nodeOfTag(id) : null
  }
const by =
  (subject: 'outlet' | 'bridge'): Rule =>
  ([id], nodes) =>
    nodes.nodeOf(subject, id as number)

/** Calls about something that may run elsewhere. Those that are not here are answered here. */
const rules = {
  ...{ check: byDraft(1), find: byDraft(0), callOnce: byDraft(0), fetchText: byDraft(0), tryRead: byDraft(0) },
  ...{ browse: byLink(0), details: byLink(0), search: byLink(1), branch: byLink(1), lasting: byLink(0), experience: byLink(0) },
  ...{ tryLinkNow: byLink(0), sensorPorts: byLink(0), sensorOffer: byLink(0), benchBlock: byLink(0), benchWrite: byLinkOf(0) },
  ...{ tables: byLink(0), table: byLink(0), createTable: byLink(0), previewRecordSet: byLinkOf(0) },
  ...{ walkPath: byThing(1), pathRecords: byThing(0), traffic: byThing(0), unclaimed: byThing(0), statisticsCourse: byThing(0) },
  evidence: ([tag], nodes) => nodes.nodeOfTag(tag as number),
  ...{ previewBridge: byDraft(0), runBridge: by('bridge'), bridgeRuns: by('bridge'), refusedRecords: by('bridge') },
  ...{ mendRefused: by('bridge'), settleRefused: by('bridge') },
  ...{ calls: by('outlet'), callTotals: by('outlet'), disconnectClient: by('outlet') },
  readRecordSet: ([id], nodes) => nodes.nodeOfSet(id as number),
  serialPorts: ([node]) => (node as number | null | undefined) ?? null,
} satisfies Partial<Record<keyof EngineApi, Rule>>

/** What a node answers its site. */
export const answeredByNodes: ReadonlySet<string> = new Set([
  ...Object.keys(rules),
  ...['benchNow', 'statistics', 'resetStatistics', 'stop', 'priorities', 'findings', 'origin', 'writeThrough', 'releaseThrough'],
])

/** Calls of which the first argument is the name of a work whose parts come meanwhile. */
const works: ReadonlySet<string> = new Set(['check', 'walkPath', 'search', 'branch'])
const longestWorkMs = 305_000
const statisticsMs = 2000

/** What one web side may call: what is about something on a node is asked there. */
export class Forwarding {
  private working = new Map<string, number>()

  constructor(
    private functions: EngineFunctions,
    private nodes: Nodes,
    private web: { part: { asEvent: WebApi['part'] } },
  ) {}

  /** The functions, each of which goes where it belongs. */
  readonly api: EngineApi = new Proxy({} as EngineApi, { get: (_, name) => this.functionOf(name as keyof EngineApi) })

  /** The web side is gone: nothing works for it any more. */
  close() {
    for (const [work, node] of this.working) this.stopThere(node, work)
    this.functions.close()
  }

  private functionOf(name: keyof EngineApi) {
    const own = this.own[name]
    if (own) return own
    const here = this.functions[name] as ((...args: Args) => unknown) | undefined
    const rule = (rules as Partial<Record<keyof EngineApi, Rule>>)[name]
    if (!rule || !here) return here
    return (...args: Args) => {
      const node = rule(args, this.nodes)
      return node === null ? here(...args) : this.there(node, name, args)
    }
  }

  private own: Partial<Record<keyof EngineApi, (...args: never[]) => unknown>> = {
    stop: (work: string) => {
      const node = this.working.get(work)
      if (node === undefined) this.functions.stop(work)
      else this.stopThere(node, work)
    },
    statistics: async (): Promise<AllStatistics> => {
      const here = this.functions.statistics()
      const asked = this.connected().map(([, runner]) => runner.ask('statistics', [], statisticsMs).catch(() => null))
      const there = ((await Promise.all(asked)) as (AllStatistics | null)[]).filter((told) => told !== null)
      return {
        links: withThose(
          here.links,
          there.flatMap(({ links }) => links),
        ),
        outlets: withThose(
          here.outlets,
          there.flatMap(({ outlets }) => outlets),
        ),
        bridges: withThose(
          here.bridges,
          there.flatMap(({ bridges }) => bridges),
        ),
      }
    },
    resetStatistics: async (only: Parameters<EngineApi['resetStatistics']>[0]) => {
      const node = only === null ? null : byThing(0)([only.of, only.id], this.nodes)
      if (node !== null) return this.there(node, 'resetStatistics', [only])
      if (!only)
        await Promise.all(this.connected().map(([, runner]) => runner.ask('resetStatistics', [null], statisticsMs).catch(() => null)))
      return this.functions.resetStatistics(only)
    },
    benchNow: async (points: Parameters<EngineApi['benchNow']>[0], open: number | null) => {
      const nodeOf = ({ linkId }: { linkId: number }) => this.nodes.nodeOfLink(linkId)
      const here = points.filter((point) => nodeOf(point) === null)
      const far = this.connected().map(async ([id, runner]) => {
        const its = points.filter((point) => nodeOf(point) === id)
        return its.length === 0 ? [] : ((await runner.ask('benchNow', [its, open]).catch(() => [])) as BenchReading[])
      })
      return [...this.functions.benchNow(here, open), ...(await Promise.all(far)).flat()]
    },
  }

  private connected() {
    return [...this.nodes.all()].filter(([, runner]) => runner.isConnected)
  }

  private async there(id: number, name: string, args: Args): Promise<unknown> {
    const runner = this.nodes.get(id)
    const work = works.has(name) ? String(args[0]) : null
    try {
      if (!runner) throw this.nodes.gone(id) as unknown as Error
      if (work === null) return await runner.ask(name, args)
      this.working.set(work, id)
      const tell = (part: unknown) => void this.web.part.asEvent(work, part)
      return await this.nodes.follow(work, tell, () => runner.ask(name, args, longestWorkMs))
    } catch (error) {
      if (!isFault(error)) throw error
      if (name !== 'check') return { ok: false, fault: error }
      void this.web.part.asEvent(work!, stepOf(error))
    } finally {
      if (work !== null) this.working.delete(work)
    }
  }

  private stopThere(node: number, work: string) {
    this.nodes
      .get(node)
      ?.ask('stop', [work])
      .catch(() => {})
  }
}

/** What nodes tell takes the place of what is known of the same here. */
const withThose = <T extends { id: number }>(here: readonly T[], there: readonly T[]): T[] => {
  const far = new Set(there.map(({ id }) => id))
  return [...here.filter(({ id }) => !far.has(id)), ...there]
}

/** A check that does not come as far as the link. */
const stepOf = (why: Fault): CheckStep => ({
  step: 'node',
  title: 'Its node',
  flow: 'broken',
  evidence: why.evidence,
  ms: null,
  fault: why,
})
