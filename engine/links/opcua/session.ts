import { promoteOpaqueStructure } from 'node-opcua'
import { fault, type Fault } from '#core/faults/catalogue'
import type { PointDefinition } from '#core/links/protocol'
import { isNumbered } from '#core/opcua/nodeId'
import type { OpcuaSettings } from '#core/opcua/settings'
import { quality } from '#core/tags/quality'
import type { TagValue } from '#core/tags/types'
import { counted } from '#core/text/counted'
import { duration } from '#core/text/duration'
import type { ShownCertificate } from '#shared/certificates'
import type { Flow } from '#shared/flow'
import type { CheckStep, FarLink, FarSide, LinkStatus, RefusedPoint } from '#shared/status'
import type { ValueOrigin } from '#shared/values'
import type { Writer } from '#shared/writes'
import type { Handle } from '../../table/tagTable'
import { Backoff } from '#pacing/backoff'
import { within } from '#pacing/within'
import { serverDoors } from '../../opcua/serverDoors'
import type { LinkBrowser, LinkContext, LinkSession, Point, PointFinding, WriteOutcome } from '../driver'
import { WriteQueue, type Sending } from '../writeQueue'
import { checkSignedIn } from './checkSignedIn'
import { branch, search } from './crawl'
import { detailsOf } from './details'
import { ItemBook, nodeIdOf } from './items'
import { firstValue } from './firstValue'
import { climb, leave, type Opened } from './ladder'
import { lastingAddress, Pins } from './pins'
import { findingsOf, missingNamespace, originOf, refusalOf } from './origin'
import { Follower } from './follower'
import { Outages } from './outages'
import { readOnce } from './readOnce'
import { take } from './sample'
import { SignedIn } from './signedIn'
import { writeTarget } from './writing'
import { lookingFault } from './browse'

/**
 * An OPC UA link at work. It climbs to a session, stays in it as long as it can, and climbs again;
 * in between it waits, for a while or until somebody decided about a certificate.
 */
export class OpcuaLinkSession implements LinkSession<OpcuaSettings> {
  private settings: OpcuaSettings
  private book = new ItemBook()
  private points = new Map<Handle, Point>()
  private pins = new Pins()
  private here: SignedIn | null = null
  private fault: Fault | null = null
  private question: ShownCertificate | null = null
  private backoff: Backoff
  private writes: WriteQueue
  private interrupt: () => void = () => {}
  private climbing: AbortController | null = null
  private closed = false
  private answerMs: number | null = null
  private counts = { requests: 0, failures: 0 }
  private outages: Outages | null
  private follower: Follower | null = null
  private stopTrusting: () => void
  private stopShowing: () => void
  /** Where the server dials us, the door is open also between two attempts: what it opens waits there. */
  private letGoOfDoor: () => void
  private running: Promise<void>

  constructor(private context: LinkContext<OpcuaSettings>) {
    this.settings = context.settings
    this.backoff = backoffOf(context.settings)
    this.writes = new WriteQueue(context.settings.writes)
    const { name, journal, gaps } = context
    this.outages = gaps ? new Outages({ name, journal, book: this.book, gaps }) : null
    this.stopTrusting = context.security.trust.onChange(() => this.trustChanged())
    this.stopShowing = context.security.own.onChange(() => this.settings.policy !== 'None' && this.startOver())
    this.letGoOfDoor = holdDoor(context.settings)
    this.running = this.run()
  }

  update(settings: OpcuaSettings) {
    const before = this.settings
    this.settings = settings
    this.writes.adjust(settings.writes)
    if (JSON.stringify(before.awaits) !== JSON.stringify(settings.awaits)) {
      this.letGoOfDoor()
      this.letGoOfDoor = holdDoor(settings)
    }
    if (reaches(before) !== reaches(settings)) return this.startOver()
    if (JSON.stringify(before.takesOver) !== JSON.stringify(settings.takesOver) && this.here) this.follow(this.here)
    if (JSON.stringify(before.reading) === JSON.stringify(settings.reading)) return
    if (before.reading.publishing !== settings.reading.publishing) this.placeAgain()
    this.here?.resubscribe(settings)
  }

  setPoints(changed: readonly Point[], removed: readonly Handle[]) {
    const gone = [...removed, ...changed.map(({ handle }) => handle)]
      .map((handle) => this.book.remove(handle))
      .filter((item) => item !== null)
    for (const handle of removed) {
      this.points.delete(handle)
      this.pins.forget(handle)
    }
    const fresh = changed.map((point) => this.place(point)).filter((item) => item !== null)
    if (gone.length > 0) this.here?.remove(gone)
    if (fresh.length > 0) this.here?.add(fresh)
    this.keepPins()
    this.showWhatIsKnown(changed)
  }

  async write(handle: Handle, value: TagValue, { who }: Writer): Promise<WriteOutcome> {
    const target = this.book.target(handle)
    if (!target) return { ok: false, quality: quality.BadNotConnected, fault: fault('link.off', { name: this.context.name }) }
    return this.writes.push(handle, target.point.path, (sending) => this.writeNow(handle, value, { ...sending, who }))
  }

  origin(handle: Handle): ValueOrigin | null {
    const [item, target] = [this.book.of(handle), this.book.target(handle)]
    if (!item || !target) return null
    const origin = originOf(item, target, this.context.table)
    return origin.fault || this.here ? origin : { ...origin, fault: this.fault }
  }

  findings(): PointFinding[] {
    return this.book.all().flatMap((item) => findingsOf(item))
  }

  /** By the URIs of their namespaces, where the server can tell them now. */
  lasting(addresses: readonly string[]): (string | null)[] {
    const { signedIn } = this
    return addresses.map((address) => signedIn && lastingAddress(address, signedIn.namespaces))
  }

  /** The link as it is, over the session that it holds; null while it holds none. */
  check(): AsyncGenerator<CheckStep> | null {
    const { signedIn } = this
    return signedIn && checkSignedIn(signedIn, this.settings, signedIn.peer)
  }

  async farSide(): Promise<FarSide> {
    const { signedIn, settings } = this
    const first = signedIn && (await within(settings.patience.answer, firstValue(signedIn.session)))
    return first && 'farSide' in first ? first.farSide : {}
  }

  /** Reads a node over the session at hand; null when there is none. */
  async tryRead(point: PointDefinition): Promise<ValueOrigin | null> {
    const { here } = this
    if (!here || here.isBroken) return null
    return readOnce(here, point, this.settings)
  }

  browser(): LinkBrowser | Fault {
    const { explorer } = this.signedIn ?? {}
    if (!explorer) return this.fault ?? fault('link.not-browsable', { name: this.context.name })
    return {
      children: (place) => explorer.children(place),
      details: (places) => detailsOf(explorer, places, true),
      search: (text, signal) => search(explorer, text, signal),
      branch: (place, signal) => branch(explorer, place, signal),
      meaning: lookingFault,
    }
  }

  private get signedIn(): SignedIn | null {
    return this.here?.isBroken ? null : this.here
  }

  nextTry() {
    return this.backoff.nextTry
  }

  tryNow() {
    this.interrupt()
  }

  status(): Omit<LinkStatus, 'id' | 'tags' | 'goodTags'> {
    return {
      ...this.condition(),
      answerMs: this.answerMs,
      requests: this.counts.requests,
      failures: this.counts.failures,
      refused: this.here ? this.refusedPoints().slice(0, mostRefusedShown) : [],
      connections: this.here && !this.here.isBroken ? 1 : 0,
      ...(this.question ? { certificate: this.question } : {}),
      ...(this.here?.farLinks ? { behind: this.here.farLinks.list() } : {}),
    }
  }

  async close() {
    this.closed = true
    this.stopTrusting()
    this.stopShowing()
    this.outages?.close()
    this.letGoOfDoor()
    this.follower?.close()
    this.climbing?.abort()
    this.interrupt()
    await this.here?.close()
    await this.running
    this.degradeAll(quality.BadOutOfService)
  }

  private async run() {
    await this.context.after
    while (!this.closed) {
      const opened = await this.climb()
      if (opened && this.closed) return await leave(opened)
      if (opened) await this.stay(opened)
      if (!this.closed) await this.pause(opened ? 0 : this.backoff.next())
    }
  }

  /** One attempt; what it stumbles over becomes the link's fault. */
  private async climb(): Promise<Opened | null> {
    const abort = new AbortController()
    this.climbing = abort
    const steps = climb(this.settings, this.context.security, abort.signal, this.context.wire)
    try {
      for (let next = await steps.next(); ; next = await steps.next()) {
        if (next.done) return next.value
        if (abort.signal.aborted) continue
        this.note(next.value)
      }
    } catch (error) {
      this.stumbled(fault('ours.unexpected', { problem: (error as Error).message }), null)
      return null
    } finally {
      this.climbing = null
    }
  }

  private note(step: CheckStep) {
    if (step.step === 'value' && step.ms !== null) this.answerMs = step.ms
    if (step.fault) this.stumbled(step.fault, step.certificate ?? null)
  }

  private stumbled(why: Fault, certificate: ShownCertificate | null) {
    const known = this.fault?.code === why.code
    this.fault = why
    this.question = certificate
    this.answerMs = null
    if (known) return
    this.context.journal.caution(this.context.name, why.what, why)
    this.degradeAll(quality.BadNotConnected)
  }

  private async stay(opened: Opened) {
    const { name, table, journal, meters } = this.context
    const { settings, book, counts, outages } = this
    const here = new SignedIn(opened, { name, table, journal, meters, settings, book, counts, outages })
    for (const item of this.book.all()) {
      item.monitoredItemId = null
      item.refusal = null
    }
    this.here = here
    this.pinAll()
    if (this.fault) journal.note(name, 'Connected.')
    this.fault = null
    this.question = null
    this.backoff.reset()
    await here.start()
    this.follow(here)
    const why = await here.ended
    this.here = null
    this.follower?.close()
    if (why) this.stumbled(why, null)
    else this.degradeAll(quality.BadNotConnected)
  }

  private follow({ explorer }: SignedIn) {
    this.follower?.close()
    const { takesOver } = this.settings
    const { name, journal, takeOver } = this.context
    if (!takesOver || !takeOver) return
    const place = { address: takesOver.place, member: '' }
    this.follower = new Follower({ name, journal, explorer, place, take: takeOver })
  }

  private degradeAll(code: number) {
    const { table } = this.context
    const now = Date.now()
    for (const handle of this.points.keys()) table.degrade(handle, code, now)
    table.flush()
  }

  private pause(ms: number): Promise<void> {
    return new Promise((resolve) => {
      const timer = setTimeout(resolve, ms)
      this.interrupt = () => {
        clearTimeout(timer)
        resolve()
      }
    })
  }

  /** Another far side, or another one that we are there: what was known says nothing about what comes. */
  private startOver() {
    const now = Date.now()
    for (const handle of this.points.keys()) this.context.table.renew(handle, now)
    this.context.table.flush()
    this.backoff = backoffOf(this.settings)
    this.fault = null
    this.question = null
    this.climbing?.abort()
    void this.here?.close()
    this.interrupt()
  }

  /** A decision about a certificate is what this link may have waited for, or what ends it. */
  private trustChanged() {
    const { here } = this
    if (!here) return this.question ? this.interrupt() : undefined
    const { certificate } = here
    if (certificate && this.context.security.trust.verdictOn(certificate).kind !== 'trusted') void here.close()
  }

  private place(point: Point) {
    this.points.set(point.handle, point)
    return this.book.place(this.pins.settle(point, this.here?.namespaces ?? null), this.settings.reading.publishing)
  }

  /** The server told its namespaces: addresses that go by a number are read by what it stands for now. */
  private pinAll() {
    for (const point of this.points.values()) {
      if (!isNumbered(point.address)) continue
      this.book.remove(point.handle)
      this.place(point)
    }
    this.keepPins()
  }

  private keepPins() {
    const fresh = this.pins.takeFresh()
    if (fresh.size > 0) this.context.keep?.(fresh)
  }

  private placeAgain() {
    for (const handle of this.points.keys()) this.book.remove(handle)
    for (const point of this.points.values()) this.place(point)
  }

  /** A tag that joins an item already watched gets what came for it last; others wait, or say why not. */
  private showWhatIsKnown(points: readonly Point[]) {
    const { table } = this.context
    const now = Date.now()
    for (const { handle } of points) {
      const item = this.book.of(handle)
      if (!item) table.degrade(handle, quality.BadConfigurationError, now)
      else if (item.refusal !== null) table.degrade(handle, item.refusal, now)
      else if (item.last && this.here?.isLive(item))
        take({ ...item, targets: item.targets.filter(({ point }) => point.handle === handle) }, item.last, now, table)
      else if (this.here?.isBroken) table.degrade(handle, quality.BadNoCommunication, now)
      else if (!this.here && this.fault) table.degrade(handle, quality.BadNotConnected, now)
    }
    table.flush()
  }

  private async writeNow(handle: Handle, value: TagValue, sending: Sending & { who: string }): Promise<WriteOutcome> {
    const [item, target, here] = [this.book.of(handle), this.book.target(handle), this.signedIn]
    if (!here || !item || !target)
      return { ok: false, quality: quality.BadNotConnected, fault: this.fault ?? fault('link.off', { name: this.context.name }) }
    const nodeId = nodeIdOf(item, here.namespaces)
    if (nodeId === null) return { ok: false, quality: quality.BadNodeIdUnknown, fault: missingNamespace(item.address) }
    const answerMs = this.settings.patience.answer
    const outcome = await writeTarget({ here, nodeId, answerMs, host: this.settings.address }, target, value, sending)
    if (outcome.ok) await this.readBack(here, item, nodeId)
    return outcome
  }

  /** What the server holds now, which need not be what was written; where it does not tell, the next notification does. */
  private async readBack(here: SignedIn, item: Parameters<typeof take>[0], nodeId: string) {
    try {
      const dataValue = await here.read(nodeId)
      await promoteOpaqueStructure(here.session as never, [dataValue])
      take(item, dataValue, Date.now(), this.context.table)
      this.context.table.flush()
    } catch {
      // the value was taken all the same
    }
  }

  /** Tags whose nodes the server does not give, with the reason. */
  private refusedPoints(): RefusedPoint[] {
    return this.book.refused().flatMap((item) => {
      const why = refusalOf(item, item.refusal!).what
      return item.targets.map(({ point }) => ({ path: point.path, address: point.address, why }))
    })
  }

  private condition(): { flow: Flow; sentence: string; fault: Fault | null } {
    const { here } = this
    if (!here) return { flow: this.fault ? 'broken' : 'late', sentence: this.fault?.what ?? 'Connecting', fault: this.fault }
    if (here.isBroken) return { flow: 'late', sentence: 'The connection broke; taking it up again', fault: null }
    const silent = here.silentFault
    if (silent) return { flow: 'late', sentence: silent.what, fault: silent }
    const refused = this.refusedPoints().length
    const note = refused > 0 ? ` · ${counted(refused, 'tag')} not given by the server` : ''
    const filling = this.outages?.text
    const behind = here.farLinks ? behindText(here.farLinks.list()) : ''
    return { flow: 'flowing', sentence: steady(here.counts) + note + behind + (filling ? ` · ${filling}` : ''), fault: null }
  }
}

const mostRefusedShown = 20

const behindText = (links: readonly FarLink[]) => {
  const broken = links.filter(({ flow }) => flow === 'broken').length
  return broken > 0 ? ` · ${broken} of ${counted(links.length, 'link')} there broken` : ''
}

const steady = ({ items, subscriptions, intervals }: SignedIn['counts']) =>
  items === 0
    ? 'Connected, no tags yet'
    : `${counted(items, 'item')} in ${counted(subscriptions, 'subscription')}, notified every ${intervals.map(duration).join(', ')}`

/** A door that cannot be had is told by the next attempt. */
const holdDoor = ({ awaits }: OpcuaSettings): (() => void) => {
  const door = awaits ? serverDoors.open(awaits).catch(() => null) : Promise.resolve(null)
  return () => void door.then((held) => held?.close())
}

const backoffOf = ({ patience }: OpcuaSettings) => new Backoff(patience.retryFirst, patience.retryMost)

/** What decides where and as whom we connect; a change of it starts over. */
const reaches = ({ address, awaits, policy, mode, identity, patience, paired }: OpcuaSettings) =>
  JSON.stringify([address, awaits, policy, mode, identity, patience, paired])
