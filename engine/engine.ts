import { fault } from '#core/faults/catalogue'
import type { TagValue } from '#core/tags/types'
import { subjectsInOrder, type Subject, type ThingOf } from '#db/subjects'
import type { LinkDraft } from '#shared/links/link'
import type { Finding } from '#shared/notes'
import type { CheckPart } from '#shared/diagnosis'
import type { Effect, EngineStatus } from '#shared/status'
import type { ValueOrigin } from '#shared/values'
import type { Writer } from '#shared/writes'
import type { LastingAddress } from './configuration/lastingAddresses'
import type { FollowPlan } from '#core/records/follow'
import type { AlarmEvent } from '#shared/alarms'
import { Alarms } from './alarms/alarms'
import { History, type HistoryStore } from './history/history'
import { ownZone } from '#core/equipment/zone'
import { Bridges } from './bridges/bridges'
import { Periods } from './bridges/periods'
import { TagWatch } from './bridges/tagWatch'
import { Spool } from './bridges/spool'
import { effectIn, notInForceIn } from './configuration/effect'
import { ForceBook } from './configuration/force'
import { bringIntoForce, bringTo, emptyConfiguration, type Appliers, type Difference } from './configuration/site'
import type { OrderedStore } from './disk/orderedStore'
import { ownInterfaces } from './wire/interfaces'
import type { JournalWriter } from './journal/journal'
import type { TableUse } from './links/driver'
import { DeviceCatalogue } from './links/deviceCatalogue'
import type { LinkRunner } from './links/linkRunner'
import { Links } from './links/links'
import type { Security } from './trust/security'
import type { OutletRunner } from './outlets/outletRunner'
import { Outlets } from './outlets/outlets'
import { TagTrends } from './live/tagTrends'
import { withHeld } from './live/heldStage'
import { BenchPoints } from './tags/benchPoints'
import { WatchedBlocks } from './tags/watchedBlocks'
import { PointsOnRequest } from './tags/pointsOnRequest'
import { Rate } from '#pacing/rate'
import { RecordSets } from './records/recordSets'
import { PropertyTags } from './equipment/propertyTags'
import { ConstantTags } from './sources/constantTags'
import { FormulaTags } from './sources/formulaTags'
import { MemoryTags } from './sources/memoryTags'
import type { MemoryStore } from './sources/memoryStore'
import { healthSubjects } from './health/subjects'
import { HealthTags } from './sources/healthTags'
import { SignalTags } from './sources/signalTags'
import { surroundingsOf } from './links/surroundings'
import type { TakenNode } from './configuration/takenOver'
import type { TakingPlan } from '#core/opcua/takingOver'
import { recordKey, Sources } from './sources/sources'
import { TagKeeper } from './tags/tagKeeper'
import { TagWrites } from './tags/tagWrites'
import { tagsOver } from './tags/tagsOver'
import { TagRegister, type RegisteredTag } from './tags/tagRegister'
import { TagTable, type Handle } from './table/tagTable'
import type { Nodes } from './nodes/nodes'
import { Placed } from './nodes/placed'

interface EngineOptions {
  node: string
  journal: JournalWriter
  security: Security
  /** Folders of this machine below which files may be written. */
  roots?: readonly string[]
  /** Where memory tags keep their values. */
  memory: MemoryStore
  /** Where an outlet may keep what has to outlast a restart; absent: nowhere. */
  outletFolder?(id: number): string
  /** Where bridges keep what waits; absent: nowhere. */
  spool?: Spool
  /** Where what is recorded goes, and where it waits; absent: nothing is recorded. */
  history?: HistoryStore
  /** Where alarms outlast a restart, and what keeps a list of what became of them; absent: nothing does. */
  alarms?: { folder: string | null; keep(event: AlarmEvent): void; opened?(store: OrderedStore): Promise<void> }
  /** Has the tags of a record set made, changed and removed for good. */
  followSet?(set: ThingOf['recordSet'], plan: FollowPlan): void
  /** Has tags made, changed and removed for good, so that there is one for each node that a link takes over. */
  takeOver?(link: ThingOf['link'], folder: string, plan: TakingPlan<TakenNode>): void
  /** Takes addresses that are to replace those of tags for good. */
  keepAddresses?(found: LastingAddress[]): void
  /** Machines elsewhere that run links; absent: all run here. */
  nodes?: Nodes
}

const mostFindings = 20_000

/**
 * The runtime: a tag table in the middle, links that write into it, outlets that read from it.
 * Configurations arrive as differences and are brought into force thing by thing: what fails is
 * noted and stops nobody else.
 */
export class Engine {
  readonly table = new TagTable()
  readonly tags = new TagRegister(this.table)
  /** How it is meant to be, as far as it could be read. */
  readonly wanted = emptyConfiguration()
  /** Up to here everything was tried. */
  private tried = 0
  private force: ForceBook
  private devices: DeviceCatalogue
  private keeper: TagKeeper
  private formulas = new FormulaTags(this.table, this.tags)
  private signals = new SignalTags(this.table, this.tags)
  private health = new HealthTags(this.table, healthSubjects(this))
  private sources: Sources
  private properties: PropertyTags
  private links: Links
  private outlets: Outlets
  private requested = new PointsOnRequest(this.table, {
    configured: () => this.wanted.things.link.values(),
    runner: (id) => this.links.get(id),
  })
  /** What is written to tags, by whom. */
  readonly writes = new TagWrites({
    ...{ table: this.table, tags: this.tags, requested: this.requested },
    source: (tag) => this.sources.of(tag.source),
    link: (id) => this.links.get(id),
    journal: () => this.options.journal,
  })
  /** Points that somebody tries without a tag. */
  readonly bench = new BenchPoints({
    table: this.table,
    requested: this.requested,
    originOf: (handle, brief) => this.writes.sourceOf(handle)?.origin(handle, brief) ?? null,
    write: (handle, value, by) => this.writes.write(handle, value, by),
  })
  /** Registers of which nobody knows what they hold. */
  readonly blocks = new WatchedBlocks(this.bench)
  /** How those tags went that somebody watches. */
  readonly trends = new TagTrends(this)
  readonly bridges: Bridges
  readonly records: RecordSets
  readonly history: History
  readonly alarms: Alarms
  private periods = new Periods()
  private watch: TagWatch
  /** What is brought into force how. */
  readonly appliers: Appliers
  readonly startedAt = Date.now()
  /** Walks the path of a link; whoever walks paths puts itself here. */
  walkLink: (id: number, signal: AbortSignal) => AsyncGenerator<CheckPart> | null = () => null
  private changesIn = new Rate(() => this.table.changes)
  private changesOut: Rate
  private work: Promise<void> = Promise.resolve()
  /** Ends when all of the difference at hand is in its place. */
  private applying: Promise<void> = Promise.resolve()

  constructor(private options: EngineOptions) {
    const { journal, memory } = options
    this.force = new ForceBook(journal)
    this.devices = new DeviceCatalogue(this.force)
    this.links = new Links({
      ...{ force: this.force, nodes: options.nodes, surroundings: (id) => this.aroundLink(id), applied: () => this.applying },
      settle: (id) => this.keeper.settle(id),
      orphan: (id) => {
        this.requested.orphan(id)
        this.keeper.orphan(id)
      },
      changed: (id) => this.records.linkChanged(id),
      turned: (id) => this.history.tagsChanged(tagsOver(new Set([id]), this.tags.all(), this.wanted.things.recordSet), []),
    })
    const zone = () => this.wanted.site.zone || ownZone()
    this.history = new History({
      ...{
        table: this.table,
        tags: this.tags,
        periods: this.periods,
        force: this.force,
        journal,
        store: options.history,
        node: options.node,
        zone,
      },
      ...(options.nodes && { isElsewhere: ({ id }: RegisteredTag) => options.nodes!.nodeOfTag(id) !== null }),
      keeping: () => this.wanted.site.history,
      madeLate: (tagId, stretch) => this.properties.makeAgain(tagId, stretch),
    })
    const constants = new ConstantTags(this.table)
    this.properties = new PropertyTags({
      ...{ table: this.table, tags: this.tags, constants, formulas: this.formulas },
      ...{ recalling: this.history.recalling, zone },
      require: (paths) => {
        this.history.require(paths)
        options.nodes?.require(paths)
      },
    })
    this.sources = new Sources({
      ...{ link: (id) => this.links.get(id), memory: new MemoryTags(this.table, memory), constants, properties: this.properties },
      ...{ formulas: this.formulas, signals: this.signals, health: this.health },
      records: { get: (id) => this.records.get(id) },
    })
    const { table, tags, sources, force, periods } = this
    const [link, outlet] = [(id: number) => this.links.get(id), (id: number) => this.outlets.get(id)]
    this.watch = new TagWatch(table, tags)
    const alarms = (listener: (event: AlarmEvent) => void) => this.alarms.listen(listener)
    this.outlets = new Outlets({
      ...{ tags, force, surroundings: this.outletSurroundings() },
      folder: (id) => options.outletFolder?.(id) ?? null,
      applied: () => this.applying,
    })
    this.changesOut = new Rate(() => this.outlets.changesTold)
    this.keeper = new TagKeeper({ table, tags, sources, force, tell: (set, removed, paths) => this.tell(set, removed, paths) })
    this.bridges = new Bridges({
      ...{ table, tags, force, journal },
      spool: options.spool ?? new Spool(null),
      site: () => this.wanted.site.name,
      ...{ link, outlet, periods, watch: this.watch, alarms },
      // runs tell what bridges wrote; the record of writes is of people and clients
      write: (handle, value, by) => this.writes.through(handle, value, by),
    })
    this.records = new RecordSets({
      ...{ table, tags, memory, journal, force, periods, link },
      timing: { watch: this.watch, periods, link, outlet, alarms },
      applied: () => this.applying,
      follow: (set, plan) => options.followSet?.(set, plan),
      settle: (id) => this.keeper.settle(recordKey(id)),
      orphan: (id) => this.keeper.orphan(recordKey(id)),
    })
    this.alarms = new Alarms({ ...{ table, tags, journal, folder: null, keep: () => {} }, ...options.alarms })
    this.appliers = {
      ...(options.nodes && { node: options.nodes }),
      certificate: { set: (all) => this.applyCertificates(all), removed: () => this.applyCertificates([]) },
      link: this.links,
      outlet: options.nodes ? new Placed('outlet', this.outlets, options.nodes) : this.outlets,
      deviceDescription: this.devices,
      tag: this.keeper,
      recordSet: this.records,
      bridge: options.nodes ? new Placed('bridge', this.bridges, options.nodes) : this.bridges,
      recording: this.history,
    }
  }

  /** One after the other; never rejects. */
  apply(difference: Difference): Promise<void> {
    return this.enqueue(() => this.applyNow(difference))
  }

  /** Tries everything again that is not as configured. */
  tryAgain(): Promise<void> {
    return this.enqueue(() => this.applyNow(this.force.again(this.wanted.revision)))
  }

  /** What became of a revision. */
  effectOf(revision: number): Effect {
    const { node, nodes } = this.options
    return effectIn(revision, { node, nodes, tried: this.tried, force: this.force })
  }

  /** How a tag's value is made, to the last consumer. */
  origin(id: number): ValueOrigin | null {
    const tag = this.tags.byTagId(id)
    const origin = tag && this.sources.of(tag.source)?.origin(tag.handle)
    if (!tag || !origin) return null
    return {
      ...origin,
      stages: withHeld(origin.stages, this.table.heldOf(tag.handle), tag),
      // of a tag on a node those there as well
      goesTo: [...origin.goesTo, ...this.outlets.showing(tag.path)],
    }
  }

  status(): Omit<EngineStatus, 'configurationFrom' | 'databaseConnected' | 'heldDatabase' | 'upkeep'> {
    const { nodes } = this.options
    return {
      node: this.options.node,
      now: Date.now(),
      startedAt: this.startedAt,
      configurationRevision: this.tried,
      ...notInForceIn({ force: this.force, nodes }),
      nodes: nodes?.status() ?? [],
      lead: nodes?.lead() ?? null,
      nodeDoorFault: nodes?.doorFault ?? null,
      links: this.links.values().map((link) => link.status()),
      sources: this.sources.besideLinks(),
      outlets: [...this.outlets.status(), ...(nodes?.outlets() ?? [])],
      bridges: [...this.bridges.status(), ...(nodes?.bridges() ?? [])],
      recordSets: this.records.status(),
      history: this.history.status(),
      alarms: this.alarms.status(),
      equipment: { pieces: this.wanted.things.equipment.size, unbound: this.properties.unbound },
      fileRoots: [...this.roots],
      interfaces: ownInterfaces(),
      tags: this.tags.size,
      goodTags: this.table.goodCount - this.requested.goodCount,
      changesInPerSecond: this.changesIn.perSecond,
      changesOutPerSecond: this.changesOut.perSecond,
    }
  }

  /** What the far sides refuse, or have otherwise than tags say. */
  findings(): Finding[] {
    const all = this.links.values().flatMap((link) => link.findings())
    return all.slice(0, mostFindings).flatMap(({ handle, kind, text }) => {
      const tag = this.tags.byHandle(handle)
      return tag ? [{ id: tag.id, kind, text }] : []
    })
  }

  /** Tables that bridges write into over a link. */
  tablesUsedOver(linkId: number): TableUse[] {
    const bridges = [...this.wanted.things.bridge.values()]
    return bridges.flatMap(({ send }) => send.flatMap((one) => (one.kind === 'table' && one.linkId === linkId ? [one] : [])))
  }

  /** Names of links that hold a connection to this place. */
  connectedTo(draft: Pick<LinkDraft, 'kind' | 'settings'>): string[] {
    return this.links.connectedTo(draft)
  }

  /** Ends when nothing that was removed talks to anybody any more. */
  get parted(): Promise<unknown> {
    return Promise.all([this.links.parted, this.outlets.parted, this.bridges.parted])
  }

  /** Folders of this machine below which files may be read and written: those that it was started with, and what the site allows. */
  get roots(): readonly string[] {
    return [...(this.options.roots ?? []), ...this.wanted.site.fileRoots]
  }

  /** Paths of the tags that a tag’s value is made of. */
  inputsOf(tag: RegisteredTag): readonly string[] {
    return this.sources.of(tag.source)?.inputs?.(tag.handle) ?? []
  }

  link(id: number): LinkRunner | undefined {
    return this.links.get(id)
  }

  allLinks(): Iterable<[number, LinkRunner]> {
    return this.links.all()
  }

  allOutlets(): Iterable<[number, OutletRunner]> {
    return this.outlets.all()
  }

  outlet(id: number): OutletRunner | undefined {
    return this.outlets.get(id)
  }

  async close() {
    this.blocks.close()
    this.bench.close()
    this.trends.close()
    this.signals.close()
    this.health.close()
    this.formulas.close()
    this.properties.close()
    this.records.close()
    await this.bridges.close()
    await this.alarms.close()
    await this.history.close()
    this.periods.close()
    this.watch.close()
    this.table.close()
    this.changesIn.close()
    this.changesOut.close()
    await this.outlets.close()
    await this.links.close()
  }

  /** What nobody foresaw stops this difference, is told, and stops no later one. */
  private enqueue(work: () => Promise<void>): Promise<void> {
    return (this.work = this.work.then(work).catch((error: Error) => {
      const why = fault('ours.unexpected', { problem: error.message }, error.stack?.split('\n')[1]?.trim() ?? '')
      this.options.journal.trouble('Engine', `A change could not be brought into force: ${error.message}`, why)
    }))
  }

  private async applyNow(difference: Difference) {
    const { parts, unread } = difference
    for (const thing of unread) this.force.unread(thing, this.revisionInForce(thing.subject, thing.id))
    const { zone } = this.wanted.site
    bringTo(this.wanted, difference)
    if (difference.site) this.history.keepingChanged()
    if (this.wanted.site.zone !== zone) this.properties.zoneChanged()
    this.forget(parts)
    let done = () => {}
    this.applying = new Promise((resolve) => (done = resolve))
    await bringIntoForce(parts, this.appliers).finally(() => {
      this.outlets.forget()
      done()
    })
    if (hasParts(parts.equipment) || hasParts(parts.equipmentClass)) this.outlets.modelChanged()
    this.alarms.configured()
    this.tried = difference.revision
    this.options.nodes?.configured(this.wanted.site.isCase ? null : this.wanted.site.nodeDoor)
  }

  private revisionInForce(subject: Subject, id: number): number | null {
    return this.wanted.things[subject].get(id)?.revision ?? null
  }

  private forget(parts: Difference['parts']) {
    for (const subject of subjectsInOrder()) for (const id of parts[subject].removed) this.force.settle(subject, id)
  }

  private applyCertificates(set: readonly ThingOf['certificate'][]) {
    const problems = this.options.security.trust.set(this.wanted.things.certificate.values())
    for (const certificate of set) {
      const problem = problems.get(certificate.id)
      this.force.attempt('certificate', certificate, () => {
        if (problem) throw problem
      })
    }
  }

  private aroundLink(linkId: number) {
    const { options, table, tags, devices, history, wanted } = this
    return surroundingsOf(linkId, { ...{ options, table, tags, devices, gaps: history.gapsOf(linkId), wanted }, roots: () => this.roots })
  }

  private tell(set: readonly RegisteredTag[], removed: readonly RegisteredTag[], paths: ReadonlySet<string>) {
    this.formulas.tagsChanged(paths)
    this.properties.tagsChanged(paths)
    this.watch.tagsChanged(set, removed)
    this.history.tagsChanged(set, removed)
    this.alarms.tagsChanged(set, removed)
    this.outlets.tagsChanged(set, removed)
  }

  private outletSurroundings() {
    const { table, requested: points } = this
    const { journal, security } = this.options
    const { equipmentClass, equipment } = this.wanted.things
    return {
      ...{ table, journal, security, points, past: this.history.past },
      write: (handle: Handle, value: TagValue, by: Writer) => this.writes.write(handle, value, by),
      links: () => this.links.values().map((link) => ({ name: link.name, ...link.status() })),
      site: () => this.wanted.site.name,
      link: (id: number) => this.links.get(id),
      walkLink: (id: number, signal: AbortSignal) => this.walkLink(id, signal),
      // made after the outlets, and there before the first of them
      alarms: {
        keys: () => this.alarms.keys(),
        get: (key: string) => this.alarms.get(key),
        listen: (listener: (event: AlarmEvent) => void) => this.alarms.listen(listener),
        acknowledge: (keys: readonly string[], who: string, text: string) => this.alarms.acknowledge(keys, who, text),
        comment: (key: string, who: string, text: string) => this.alarms.comment(key, who, text),
      },
      equipment: () => ({ classes: equipmentClass.values(), equipment: equipment.values() }),
    }
  }
}

const hasParts = ({ set, removed }: { set: readonly unknown[]; removed: readonly number[] }) => set.length + removed.length > 0
