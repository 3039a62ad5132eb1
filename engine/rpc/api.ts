import { type Fault } from '#core/faults/catalogue'
import { severityOf, type Severity } from '#core/tags/quality'
import type { Acknowledged, AlarmsAsked, AlarmsMatching } from '#shared/alarms'
import type { OwnCertificateFacts } from '#shared/certificates'
import type { Answer, EngineApi } from '#shared/rpc'
import type { CaseFacts } from '#shared/handover'
import type { Effect, EngineStatus, NotInForce } from '#shared/status'
import { steadyNow } from '#pacing/clock'
import type { ConfigurationFeed } from '../configuration/feed'
import { machineFacts } from '../diagnosis/machineFacts'
import type { Journal } from '../journal/journal'
import type { Nodes } from '../nodes/nodes'
import type { PairingDesk } from '../pairing/desk'
import { NodeFunctions } from './nodes'
import type { ThingParts } from './things'
import { programFile } from '../disk/programFile'
import { liveValueOf, LiveViews } from '../live/liveViews'
import type { Upkeep } from '../upkeep/upkeep'
import type { WebSide } from './server'
import type { Choice } from '#shared/heldDatabase'

/** So many checks and values go into a handover pack. */
const mostChecks = 200
const mostValues = 50_000
const mostAlarms = 2000
const effectLookMs = 50

interface Parts extends ThingParts {
  feed: Pick<ConfigurationFeed, 'readAgain' | 'held' | 'settle'>
  upkeep: Pick<Upkeep, 'state'>
  web: WebSide
  journal: Journal
  desk: PairingDesk
  nodes: Nodes
  /** Where the engine keeps its state; null: nowhere. */
  folder: string | null
  status(): EngineStatus
}

/** What one web side may call. Long work that it started ends with it. */
export class EngineFunctions extends NodeFunctions implements EngineApi {
  private views: LiveViews

  constructor(private parts: Parts) {
    super([parts, parts.journal, parts.desk], parts.nodes)
    const { engine, web } = parts
    const sources = { table: engine.table, tags: engine.tags, originOf: (id: number) => engine.origin(id) }
    this.views = new LiveViews(sources, (viewer, values, origin) => web.deliver(viewer, values, origin))
  }

  /** After a change of the configuration. */
  lookAgain() {
    this.views.resolveAgain()
  }

  /** The web side is gone. */
  close() {
    this.work.close()
    this.views.close()
  }

  status = () => this.parts.status()

  /** Waits, for a while, until the engine has come to the revision. */
  effect = async (revision: number, waitMs: number): Promise<Effect> => {
    const end = steadyNow() + waitMs
    for (;;) {
      const effect = this.parts.engine.effectOf(revision)
      if (effect.state === 'not yet' && this.parts.feed.held) return { ...effect, state: 'held' }
      if (effect.state !== 'not yet' || steadyNow() > end) return effect
      await new Promise((resolve) => setTimeout(resolve, effectLookMs))
    }
  }

  tryAgain = async (): Promise<NotInForce[]> => {
    await this.parts.feed.readAgain()
    await this.parts.engine.tryAgain()
    return this.parts.engine.status().notInForce
  }

  upkeep = () => this.parts.upkeep.state()

  settleDatabase = (choice: Choice, who: string) => this.parts.feed.settle(choice, who)

  caseFacts = async (): Promise<CaseFacts> => ({
    machine: await machineFacts(this.parts.folder),
    status: this.parts.status(),
    checks: this.parts.book.last(mostChecks),
    passed: this.parts.paths.passed(),
    statistics: this.statistics(),
    calls: this.lastCalls(),
    values: firstOf(this.parts.engine.tags.all(), mostValues).map((tag) => liveValueOf(this.parts.engine.table, tag)),
    alarms: this.alarms({ sort: 'rank', offset: 0, limit: mostAlarms }).items,
  })

  programFile = (of: { root: string; file: string }, seen: number | null) => programFile(() => this.parts.engine.roots, of, seen)

  trends = (ids: number[], after: number) => this.parts.engine.trends.of(ids, after)

  findings = () => this.parts.engine.findings()

  ofQuality = (severity: Severity): number[] => {
    const { table, tags } = this.parts.engine
    return [...tags.all()].flatMap(({ id, handle }) => (severityOf(table.quality[handle]!) === severity ? [id] : []))
  }

  valuesOf = (ids: number[]) => {
    const { table, tags } = this.parts.engine
    return ids.flatMap((id) => {
      const tag = tags.byTagId(id)
      return tag ? [liveValueOf(table, tag)] : []
    })
  }

  watch = (viewer: string, tagIds: number[], origin: number | null) => this.views.watch(viewer, tagIds, origin)

  leave = (viewer: string) => this.views.leave(viewer)

  alarms = (asked: AlarmsAsked) => this.parts.engine.alarms.page(asked)

  acknowledgeAlarms = (which: string[] | AlarmsMatching, who: string, comment: string): Acknowledged => {
    const { alarms } = this.parts.engine
    const keys = Array.isArray(which) ? which : alarms.matching(which)
    const left = alarms.acknowledge(keys, who, comment)
    return { acknowledged: keys.length - left.length, left }
  }

  commentAlarm = (key: string, who: string, text: string) => this.parts.engine.alarms.comment(key, who, text)

  own = (): OwnCertificateFacts => ({ facts: this.parts.security.own.facts, pem: this.parts.security.own.pem })

  replaceOwn = (certificate: string, key: string): Promise<Answer<OwnCertificateFacts>> => {
    const problem = this.parts.security.own.replace({ certificate, key })
    return Promise.resolve(problem ? refused(problem) : answered(this.own()))
  }

  renewOwn = async () => {
    await this.parts.security.own.renew()
    return this.own()
  }
}

const firstOf = <T>(all: Iterable<T>, most: number): T[] => {
  const first: T[] = []
  for (const one of all) if (first.push(one) >= most) break
  return first
}

const answered = <T>(value: T): Answer<T> => ({ ok: true, value })
const refused = <T>(why: Fault): Answer<T> => ({ ok: false, fault: why })
