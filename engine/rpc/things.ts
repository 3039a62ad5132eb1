import { z } from 'zod'
import { type Fault, isFault } from '#core/faults/catalogue'
import { fault } from '#core/faults/catalogue'
import { bridgeContract } from '#core/bridges/settings'
import { endpointContract } from '#core/endpoints/settings'
import { recordSetContract } from '#core/records/settings'
import { fieldTypeOf } from '#core/sql/columnTypes'
import { createStatements } from '#core/sql/createTable'
import { sampleMessage, type RefusedRecord, type RefusedValue, type SettledRecords } from '#shared/bridges/preview'
import type { BridgeRun } from '#shared/bridges/status'
import { newTable, type ListedTable, type TablePlace } from '#shared/links/tables'
import { benchEntry, benchPoint, mostInBlock } from '#shared/bench'
import type { RecordSetStatus } from '#shared/records/status'
import type { AnyFound } from '#shared/links/found'
import type { CallOutcome } from '#shared/links/webCall'
import type { UnclaimedStatus } from '#shared/arrivals'
import type { Place } from '#shared/browse'
import { linkContract } from '#shared/links/link'
import { pointSource } from '#shared/sources/point'
import { tagDraft } from '#shared/tags'
import type { Priorities } from '#shared/links/priorities'
import type { SensorOffer, SensorPortFound } from '#shared/links/sensorPorts'
import { writer } from '#shared/writes'
import type { ModelPlan } from '#shared/outlets/cloudPlatformStatus'
import type { CheckEvidence } from '#shared/checks'
import type { Answer } from '#shared/rpc'
import { evidenceOf } from '../live/evidence'
import type { PathKind, PathRecord } from '#shared/diagnosis'
import type { TrafficPart } from '#shared/traffic'
import type { ValueOrigin } from '#shared/values'
import type { PathBook } from '../diagnosis/pathBook'
import type { PathWatch } from '../diagnosis/pathWatch'
import { LongWork } from './longWork'
import { isThere, walkOf } from './walks'
import type { Engine } from '../engine'
import { listAside, mendAside, settleAside } from '../bridges/aside'
import type { BridgeRunner } from '../bridges/bridgeRunner'
import type { OutletRunner } from '../outlets/outletRunner'
import type { LinkBrowser } from '../links/driver'
import type { RowStore, TableFacts } from '../links/receiving'
import { previewOf } from '../records/preview'
import { LookingFault } from '../links/looking'
import { driverOf } from '../links/registry'
import { machinePorts } from '../serial/machinePorts'
import { TagShelf } from '../outlets/http/tagShelf'
import { tryEndpoint } from '../outlets/http/tryEndpoint'
import { asOutletTag } from '../tags/tagRegister'
import { Wire } from '../wire/wire'
import type { Security } from '../trust/security'
import type { WebSide } from './server'

export interface ThingParts {
  engine: Engine
  security: Security
  paths: PathWatch
  book: PathBook
  /** Whoever asks. */
  web: Pick<WebSide, 'part'>
}

/** What may be asked of links, outlets, bridges, record sets and tags, wherever they run. Long work ends with whoever asked. */
export class ThingFunctions {
  protected work: LongWork

  constructor(private things: ThingParts) {
    this.work = new LongWork(things.web)
  }

  check = (id: string, draft: unknown, linkId: number | null) => {
    const checked = linkContract.parse(draft)
    return this.work.bring(id, (signal) => this.things.paths.checkSheet(checked, linkId, signal))
  }

  walkPath = async (work: string, of: PathKind, id: number, entry: number | null): Promise<Answer<null>> => {
    const walk = walkOf(this.things, of, id, entry)
    if ('code' in walk) return refused(walk)
    await this.work.bring(work, walk.start)
    return answered(null)
  }

  pathRecords = (of: PathKind, id: number): Answer<PathRecord[]> =>
    isThere(this.things.engine, of, id) ? answered(this.things.book.of(of, id)) : refused(fault('entry.gone', { thing: of, id }))

  callOnce = async (draft: unknown, operation: string, given: Record<string, string>): Promise<Answer<CallOutcome>> => {
    const { kind, settings } = linkContract.parse(draft)
    const { call } = driverOf(kind)
    if (!call) return refused(fault('http.call', { call: operation, problem: 'this link goes to no web API' }))
    return answered(await call(settings, { operation, given }, { security: this.things.security, wire: new Wire() }))
  }

  fetchText = async (draft: unknown, address: string): Promise<Answer<string>> => {
    const { kind, settings } = linkContract.parse(draft)
    const { fetchText } = driverOf(kind)
    if (!fetchText) return refused(fault('http.call', { call: address, problem: 'this link goes to no web API' }))
    return fetchText(settings, address, { security: this.things.security, wire: new Wire() }).then(answered<string>, (why: Fault) =>
      refused<string>(why),
    )
  }

  find = async (draft: unknown): Promise<Answer<AnyFound>> => {
    const { kind, settings } = linkContract.parse(draft)
    const { find } = driverOf(kind)
    if (!find) return refused(fault('entry.unreadable', { problem: 'this protocol offers nothing to choose from' }))
    return find(settings, { security: this.things.security, wire: new Wire() }).then(answered<AnyFound>, (why: Fault) =>
      refused<AnyFound>(why),
    )
  }

  lasting = (linkId: number, addresses: string[]) => this.things.engine.link(linkId)?.lasting(addresses) ?? addresses.map(() => null)

  browse = (linkId: number, place: Place) => this.browsing(linkId, (browser) => browser.children(place))

  details = (linkId: number, places: Place[]) => this.browsing(linkId, (browser) => browser.details(places))

  traffic = (of: 'link' | 'outlet', id: number, after: number | null, most: number): Answer<TrafficPart> => {
    const tapped = this.things.engine[of](id)
    if (!tapped) return refused(fault('entry.gone', { thing: of, id }))
    const { tap } = tapped.wire
    return answered(tap.look(after ?? tap.end, most))
  }

  evidence = async (tagId: number): Promise<Answer<CheckEvidence>> => {
    const evidence = await evidenceOf(tagId, this.things.engine)
    return evidence ? answered(evidence) : refused(fault('entry.gone', { thing: 'tag', id: tagId }))
  }

  tryLinkNow = (linkId: number, unit: string | null): Answer<null> => {
    const link = this.things.engine.link(linkId)
    const why = link ? link.tryNow(unit) : fault('entry.gone', { thing: 'link', id: linkId })
    return why ? refused(why) : answered(null)
  }

  unclaimed = (of: 'link' | 'outlet', id: number): Answer<UnclaimedStatus> => {
    const source = this.things.engine[of](id)
    return source ? answered(source.arrivals.list()) : refused(fault('entry.gone', { thing: of, id }))
  }

  serialPorts = (_node: number | null = null) => machinePorts()

  sensorPorts = (linkId: number): Answer<SensorPortFound[]> => {
    const link = this.things.engine.link(linkId)
    if (!link) return refused(fault('entry.gone', { thing: 'link', id: linkId }))
    const ports = link.sensorPorts()
    return 'code' in ports ? refused(ports) : answered(ports)
  }

  sensorOffer = async (linkId: number, port: number): Promise<Answer<SensorOffer>> => {
    const link = this.things.engine.link(linkId)
    if (!link) return refused(fault('entry.gone', { thing: 'link', id: linkId }))
    return link
      .sensorOffer(port)
      .then(answered<SensorOffer>, (why: unknown) => refused<SensorOffer>(isFault(why) ? why : brokeOff(why as Error)))
  }

  search = (id: string, linkId: number, text: string) =>
    this.browsing(linkId, (browser) => this.work.bring(id, (signal) => browser.search(text, signal)).then(() => null))

  branch = (id: string, linkId: number, place: Place) =>
    this.browsing(linkId, (browser) => this.work.bring(id, (signal) => browser.branch(place, signal)).then(() => null))

  stop = (id: string) => this.work.stop(id)

  tryRead = (link: unknown, point: unknown): Promise<ValueOrigin> => {
    const { kind, settings, id } = linkContract.and(z.object({ id: z.int() })).parse(link)
    const definition = pointContract.parse(point)
    return this.things.engine.link(id)?.tryRead(definition) ?? driverOf(kind).tryRead(settings, definition, new Wire())
  }

  benchNow = (points: unknown, open: number | null) => this.things.engine.bench.now(keptPoints.parse(points), open)

  benchBlock = (linkId: number, addresses: string[], interval: number) =>
    this.things.engine.blocks.look(linkId, addresses.slice(0, mostInBlock), interval)

  benchWrite = (point: unknown, value: boolean | number | string, by: unknown) =>
    this.things.engine.bench.write(benchPoint.parse(point), value, writer.parse(by))

  priorities = async (tagId: number): Promise<Answer<Priorities>> => {
    try {
      return answered(await this.things.engine.writes.priorities(tagId))
    } catch (why) {
      return refused(isFault(why) ? why : brokeOff(why as Error))
    }
  }

  release = (tagId: number, by: unknown) => this.things.engine.writes.release(tagId, writer.parse(by))

  write = (tagId: number, value: boolean | number | string, by: unknown) =>
    this.things.engine.writes.writeTag(tagId, value, writer.parse(by))

  experience = (linkId: number) => this.things.engine.link(linkId)?.experience() ?? {}

  modelPlan = (outletId: number, readAgain: boolean): Promise<Answer<ModelPlan>> =>
    this.ofModel(outletId, (outlet) => outlet.plan(readAgain))

  applyModel = (outletId: number, seen: string, removing: boolean): Promise<Answer<ModelPlan>> =>
    this.ofModel(outletId, (outlet) => outlet.applyPlan(seen, removing))

  tryEndpoint = (draft: unknown, tried: { given: Record<string, string>; body: string }) => {
    const { engine } = this.things
    const { table, tags } = engine
    const shelf = new TagShelf(table)
    shelf.setTags([...tags.all()].map(asOutletTag), [])
    const around = { shelf, table, outlet: 'a trial', site: () => engine.wanted.site.name, link: (id: number) => engine.link(id) }
    return tryEndpoint(endpointContract.parse(draft), tried, around)
  }

  disconnectClient = (outletId: number, clientId: string) => this.things.engine.outlet(outletId)?.disconnect(clientId) ?? false

  previewBridge = (draft: unknown, bridgeId: number | null, message: unknown) =>
    this.things.engine.bridges.preview(bridgeContract.parse(draft), bridgeId, sampleMessage.nullable().parse(message))

  runBridge = async (id: number): Promise<Answer<number>> => {
    const runner = this.things.engine.bridges.get(id)
    const run = (await runner?.runByHand()) ?? null
    return run === null ? refused(bridgeOff(runner?.name)) : answered(run)
  }

  bridgeRuns = (id: number): Answer<BridgeRun[]> => {
    const runs = this.things.engine.bridges.runs(id)
    return runs ? answered(runs) : refused(fault('entry.gone', { thing: 'bridge', id }))
  }

  refusedRecords = (id: number): Promise<Answer<RefusedRecord[]>> => this.ofBridge(id, (runner) => runner.laidAside(listAside))

  mendRefused = async (id: number, key: string, values: RefusedValue[]): Promise<Answer<null>> => {
    const mended = await this.ofBridge(id, (runner) => runner.laidAside((asides) => mendAside(asides, key, values)))
    if (!mended.ok) return mended
    return mended.value ? answered(null) : refused(fault('bridge.no-record', {}))
  }

  settleRefused = (id: number, keys: string[], then: 'send' | 'drop'): Promise<Answer<SettledRecords>> =>
    this.ofBridge(id, (runner) => runner.laidAside((asides) => settleAside(asides, keys, then)))

  tables = (linkId: number): Promise<Answer<ListedTable[]>> => this.ofDatabase(linkId, (store) => store.tables())

  table = (linkId: number, { procedure, ...place }: TablePlace & { procedure: boolean }) =>
    this.ofDatabase(linkId, async (store) => shownTable(await store.describe(place, procedure ? 'procedure' : 'table')))

  createTable = (linkId: number, table: unknown, run: boolean): Promise<Answer<string[]>> =>
    this.ofDatabase(linkId, async (store) => {
      const statements = createStatements(newTable.parse(table), store.dialect)
      if (run) await store.run(statements)
      return statements
    })

  previewRecordSet = (draft: unknown, setId: number | null, run: Record<string, boolean | number | string> | null) => {
    const set = recordSetContract.parse(draft)
    const { engine } = this.things
    const saved = setId === null ? undefined : engine.records.get(setId)
    const trial = { set, run, key: saved?.status().key ?? null, last: saved?.lastOf(set.how) ?? null }
    return this.ofDatabase(set.linkId, (store) => previewOf(trial, store, engine))
  }

  readRecordSet = async (id: number): Promise<Answer<RecordSetStatus>> => {
    const runner = this.things.engine.records.get(id)
    if (!runner) return refused(fault('entry.gone', { thing: 'recordSet', id }))
    const why = await runner.readNow()
    return why ? refused(why) : answered(runner.status())
  }

  private async ofBridge<T>(id: number, work: (runner: BridgeRunner) => Promise<T>): Promise<Answer<T>> {
    const runner = this.things.engine.bridges.get(id)
    if (!runner) return refused(fault('entry.gone', { thing: 'bridge', id }))
    try {
      return answered(await work(runner))
    } catch (error) {
      return refused(isFault(error) ? error : fault('bridge.spool', { problem: (error as Error).message }))
    }
  }

  private async ofModel(outletId: number, work: (outlet: OutletRunner) => Promise<ModelPlan> | null): Promise<Answer<ModelPlan>> {
    const outlet = this.things.engine.outlet(outletId)
    if (!outlet) return refused(fault('entry.gone', { thing: 'outlet', id: outletId }))
    const working = work(outlet)
    if (!working) return refused(outlet.isOpen ? fault('outlet.no-model', { name: outlet.name }) : fault('outlet.off', {}))
    return working.then(answered<ModelPlan>, (why: unknown) => refused<ModelPlan>(isFault(why) ? why : brokeOff(why as Error)))
  }

  private async ofDatabase<T>(linkId: number, work: (store: RowStore) => Promise<T>): Promise<Answer<T>> {
    const link = this.things.engine.link(linkId)
    if (!link) return refused(fault('entry.gone', { thing: 'link', id: linkId }))
    const receiver = link.receiver()
    if ('code' in receiver) return refused(receiver)
    if (receiver.takes !== 'table') return refused(fault('bridge.no-receiver', { link: link.name, what: 'rows' }))
    try {
      return answered(await work(receiver))
    } catch (error) {
      return refused(isFault(error) ? error : fault('link.broke-off', { problem: (error as Error).message }))
    }
  }

  private async browsing<T>(linkId: number, look: (browser: LinkBrowser) => Promise<T>): Promise<Answer<T>> {
    const link = this.things.engine.link(linkId)
    if (!link) return refused(fault('entry.gone', { thing: 'link', id: linkId }))
    const browser = link.browser()
    if ('code' in browser) return refused(browser)
    try {
      return answered(await look(browser))
    } catch (error) {
      return refused(error instanceof LookingFault ? error.why : (browser.meaning(error as Error) ?? brokeOff(error as Error)))
    }
  }
}

const bridgeOff = (name = '') => fault('bridge.off', { name })

const shownTable = ({ schema, table, columns, dialect }: TableFacts) => ({
  ...{ schema, table },
  columns: columns.map((column) => ({
    ...{ name: column.name, type: fieldTypeOf(column, dialect).name, nullable: column.nullable, hasDefault: column.hasDefault },
    ...{ isGenerated: column.isGenerated, isKey: column.isKey },
  })),
})

const brokeOff = ({ message }: Error): Fault => fault('link.broke-off', { problem: message }, message)

const pointContract = tagDraft
  .pick({ type: true, access: true })
  .extend(pointSource.pick({ address: true, options: true, interval: true }).shape)

const keptPoints = z.array(benchPoint.extend(benchEntry.pick({ id: true }).shape))

const answered = <T>(value: T): Answer<T> => ({ ok: true, value })
const refused = <T>(why: Fault): Answer<T> => ({ ok: false, fault: why })
