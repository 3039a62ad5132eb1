import { AttributeIds, promoteOpaqueStructure, type ClientSession, type DataValue } from 'node-opcua'
import { fault, type Fault } from '#core/faults/catalogue'
import { steadyNow } from '#pacing/clock'
import type { OpcuaSettings } from '#core/opcua/settings'
import { isGood, quality, qualityName } from '#core/tags/quality'
import { duration } from '#core/text/duration'
import type { JournalWriter } from '../../journal/journal'
import { keepTrying, sessionTokenOf } from '../../opcua/internals'
import { within } from '#pacing/within'
import { Explorer } from './browse'
import { nodeIdOf, type Item, type ItemBook } from './items'
import { leave, type Opened } from './ladder'
import { generalFault } from '../../opcua/refusals'
import { take } from './sample'
import { Intake, type SampleSink } from '../../table/intake'
import type { Meters } from '#core/statistics/meters'
import { SentRequests } from './sentRequests'
import type { Back, Outages } from './outages'
import { FarLinks } from './farLinks'
import { firstValue } from './firstValue'
import { Services } from './services'
import { Watching, type Group } from './watching'

interface Surroundings {
  name: string
  settings: OpcuaSettings
  book: ItemBook
  table: SampleSink
  journal: JournalWriter
  /** Outlives the session: how many requests were answered, and how many were refused or not answered. */
  counts: { requests: number; failures: number }
  meters: Meters
  /** Absent: nothing is recorded here, or nothing is to be filled in. */
  outages: Outages | null
}

/** After this long without the connection the last values are no longer usable. */
const graceMs = 5000
/** After this long the package’s own attempts are given up for a fresh climb, which says what is wrong. */
const giveUpMs = 20_000
const lookEveryMs = 1000
const signOfLifeEveryMs = 4000
const refusedAgainMs = 30_000
const subscribeAgainMs = 20_000
const serverState = 'i=2259'
const namespaceArray = 'i=2255'

/** Items that the server does not watch for us, though it should: why, and what is done meanwhile. */
interface Unwatched {
  why: Fault
  triedAgainAt: number
  reading: boolean
}

/** A session at work: its subscriptions, what it does when they fall silent, and how it is taken up after a break. */
export class SignedIn {
  readonly session: ClientSession
  readonly namespaces: readonly string[]
  readonly explorer: Explorer
  /** Of a copy that we are paired with. */
  readonly farLinks: FarLinks | null
  private services: Services
  private watching: Watching
  private intake: Intake
  private work: Promise<void> = Promise.resolve()
  private brokenSince = 0
  /** When the server said something last. */
  /** By the clock that nobody sets. */
  private heardAt = steadyNow()
  private gracePassed = false
  private refusedTriedAt = Date.now()
  private lifeAskedAt = Date.now()
  private subscriptionsLost = false
  private timer: NodeJS.Timeout
  private end!: (why: Fault | null) => void
  private over = false
  private sessionToken: string
  private unwatched: Unwatched | null = null
  private toldOfDeadband = false
  /** Resolves when this session is of no more use; with the reason, or null when we ended it. */
  readonly ended = new Promise<Fault | null>((resolve) => (this.end = resolve))

  constructor(
    private opened: Opened,
    private around: Surroundings,
  ) {
    this.session = opened.session
    this.namespaces = opened.namespaces
    this.services = new Services(opened.session)
    this.explorer = new Explorer(this.services, opened.namespaces)
    const { services, namespaces } = this
    this.farLinks = around.settings.paired ? new FarLinks({ services, namespaces, isBroken: () => this.isBroken }) : null
    this.intake = new Intake(around.table)
    this.watching = this.newWatching()
    this.sessionToken = this.tokenNow()
    this.listen()
    this.timer = setInterval(() => this.look(), lookEveryMs)
  }

  get certificate() {
    return this.opened.certificate
  }

  get peer() {
    return peerOf(this.opened)
  }

  get isBroken() {
    return this.brokenSince > 0
  }

  /** Reads work and nothing is published: because no subscription is to be had, or on all of them, or on some. */
  get silentFault(): Fault | null {
    if (this.unwatched) return this.unwatched.why
    const { silent, subscriptionCount } = this.watching
    if (silent.length === 0) return null
    return this.faultOfSilence(silent[0]!, silent.length, subscriptionCount)
  }

  private faultOfSilence({ silent, subscription }: Group, of = 1, all = this.watching.subscriptionCount): Fault {
    const { readInstead } = this.around.settings.reading
    const ms = Date.now() - (silent?.since ?? Date.now())
    return fault(
      'opcua.silent-publish',
      { ms, instead: readInstead, silent: of, all },
      `notified every ${subscription.publishingInterval} ms`,
    )
  }

  /** Whether what came last for an item may be taken for what is there now. */
  isLive(item: Item): boolean {
    return !this.isBroken && this.watching.isLive(item)
  }

  get counts() {
    const { subscriptionCount, itemCount, intervals, notifications } = this.watching
    return { subscriptions: subscriptionCount, items: itemCount, intervals, notifications }
  }

  async start() {
    await this.services.askForLimits().catch(() => {})
    this.watching = this.newWatching()
    this.add(this.around.book.all())
    this.tellBack()
  }

  add(items: readonly Item[]) {
    this.enqueue(() => this.watch(items))
  }

  remove(items: readonly Item[]) {
    this.enqueue(() => this.watching.remove(items))
  }

  /** The intervals of reading changed: everything is subscribed anew, on the same session. */
  resubscribe(settings: OpcuaSettings) {
    this.around = { ...this.around, settings }
    this.enqueue(() => this.subscribeAnew())
  }

  async read(nodeId: string): Promise<DataValue> {
    const dataValue = await within(this.around.settings.patience.answer, this.session.read({ nodeId, attributeId: AttributeIds.Value }))
    return dataValue
  }

  async close(why: Fault | null = null) {
    if (this.over) return
    this.over = true
    this.around.outages?.lost(this.heardAt)
    this.intake.shut()
    this.farLinks?.close()
    clearInterval(this.timer)
    this.end(why)
    const { client, session } = this.opened
    if (!this.isBroken) await within(2000, client.closeSession(session, true)).catch(() => {})
    await leave(this.opened)
  }

  private newWatching() {
    const { book, settings } = this.around
    return new Watching({
      services: this.services,
      namespaces: this.namespaces,
      book,
      table: this.intake,
      settings,
      isTrusted: () => !this.isBroken,
      withoutDeadband: (item) => this.tellOfDeadband(item),
      lost: () => this.subscriptionLost(),
      heardAgain: ({ interval }) => {
        this.around.journal.note(this.around.name, `Notifications come again, every ${duration(interval)}.`)
        this.tellBack()
      },
    })
  }

  /** Once per session: what the server makes of one deadband, it makes of the others. */
  private tellOfDeadband({ filterRefusal, targets }: Item) {
    if (this.toldOfDeadband || filterRefusal === null) return
    this.toldOfDeadband = true
    const status = qualityName(filterRefusal)
    const why = fault('opcua.no-deadband', { path: targets[0]?.point.path ?? '', status }, status)
    this.around.journal.caution(this.around.name, why.what, why)
  }

  /** One after the other: two sets of service calls on one subscription would trip over each other. */
  private enqueue(task: () => Promise<void>) {
    this.work = this.work
      .then(() => (this.over ? undefined : task()))
      .catch((error: Error) => {
        if (!this.over && !this.isBroken) this.around.journal.caution(this.around.name, `A request to the server failed: ${error.message}`)
      })
  }

  private listen() {
    const { client, session } = this.opened
    const { counts, meters } = this.around
    keepTrying(client)
    const sent = new SentRequests(meters)
    client.on('send_request', (request) => sent.sent(request))
    client.on('receive_response', (response) => {
      this.heardAt = steadyNow()
      counts.requests++
      if (response.responseHeader.serviceResult.isNotGood()) counts.failures++
      sent.answered(response)
    })
    client.on('timed_out_request', (request) => {
      counts.failures++
      sent.timedOut(request)
    })
    client.on('connection_lost', () => this.broke())
    client.on('close', () => void this.close(fault('opcua.connection-lost', this.peer)))
    session.on('session_restored', () => this.enqueue(() => this.resumed()))
    session.on('session_closed', (status) => {
      if (!this.over && !this.isBroken)
        void this.close(fault('opcua.refused', { what: 'keep the session', status: status.name, words: 'it closed it' }, status.name))
    })
  }

  private broke() {
    if (this.brokenSince > 0) return
    this.brokenSince = Date.now()
    this.around.outages?.lost(this.heardAt)
    this.gracePassed = false
    this.degrade(this.around.book.all(), quality.UncertainLastUsableValue)
    this.around.journal.caution(
      this.around.name,
      'The connection broke; session and items are taken up where they were if the server still has them.',
    )
  }

  /** The package brought the session back. Before a value is believed: are the namespaces still the same? */
  private async resumed() {
    if (!(await this.sameNamespaces())) return this.close(fault('opcua.namespaces-changed', {}))
    await this.services.askForLimits().catch(() => {})
    this.brokenSince = 0
    this.around.journal.note(this.around.name, 'Connected again.')
    const isAnother = this.sessionToken !== this.tokenNow()
    this.sessionToken = this.tokenNow()
    if (isAnother || this.subscriptionsLost || this.unwatched || this.watching.isReplaced) return this.subscribeAnew()
    await this.readItems(this.around.book.all())
    this.tellBack()
  }

  /** Once everything is watched that can be: what was missed may be asked for. */
  private tellBack() {
    const { outages, settings } = this.around
    if (!outages || !settings.reading.fillGaps) return
    const back: Back = {
      services: this.services,
      namespaces: this.namespaces,
      answerMs: settings.patience.answer,
      clockAhead: () => this.clockAhead(),
      isOver: () => this.over || this.isBroken,
    }
    this.enqueue(() => Promise.resolve(outages.back(back)))
  }

  private async clockAhead(): Promise<number> {
    const first = await within(this.around.settings.patience.answer, firstValue(this.session))
    return 'farSide' in first ? (first.farSide.clockAhead ?? 0) : 0
  }

  /** Another one tells that the server forgot the session before, and with it what it watched. */
  private tokenNow() {
    return sessionTokenOf(this.session)
  }

  private async sameNamespaces(): Promise<boolean> {
    const now = (await this.read(namespaceArray)).value.value as (string | null)[] | null
    return now?.length === this.namespaces.length && now.every((uri, index) => uri === this.namespaces[index])
  }

  private subscriptionLost() {
    this.subscriptionsLost = true
    this.degrade(this.around.book.all(), quality.UncertainLastUsableValue)
    if (!this.isBroken) this.enqueue(() => this.subscribeAnew())
  }

  private async subscribeAnew() {
    this.subscriptionsLost = false
    await this.watching.close()
    const items = this.around.book.all()
    for (const item of items) item.monitoredItemId = null
    this.watching = this.newWatching()
    await this.watch(items)
    this.unwatched = null
    this.tellBack()
  }

  /** Where the server gives no subscription, everything is set up anew after a while. */
  private async watch(items: readonly Item[]) {
    try {
      await this.watching.add(items)
    } catch (error) {
      const why = generalFault(error, 'watch our items', { ...this.peer, answerMs: this.around.settings.patience.answer })
      this.degradeGood(items.filter((item) => !this.watching.isLive(item)))
      this.unwatched = { why, triedAgainAt: Date.now(), reading: false }
      throw error
    }
  }

  private look() {
    const now = Date.now()
    if (this.isBroken) return this.lookAtBreak(now)
    if (this.watching.isReplaced && !this.subscriptionsLost) this.subscriptionLost()
    if (now - this.refusedTriedAt > refusedAgainMs) this.askForRefused(now)
    if (now - this.lifeAskedAt > signOfLifeEveryMs) void this.askForLife(now)
    for (const group of this.watching.overdue(now)) void this.fallSilent(group)
    for (const group of this.watching.silent) this.endure(group.silent, group.items, () => this.watching.renew(group))
    if (this.unwatched)
      this.endure(this.unwatched, this.around.book.all(), () => this.subscribeAnew(), this.around.settings.patience.retryMost)
  }

  private lookAtBreak(now: number) {
    const broken = now - this.brokenSince
    if (broken > giveUpMs) return void this.close(fault('opcua.connection-lost', this.peer))
    if (broken < graceMs || this.gracePassed) return
    this.gracePassed = true
    this.degrade(this.around.book.all(), quality.BadNoCommunication)
  }

  /** A program that was loaded since may have brought the nodes that were missing. */
  private askForRefused(now: number) {
    this.refusedTriedAt = now
    const refused = this.around.book.all().filter(({ refusal }) => refusal !== null)
    if (refused.length > 0) this.add(refused)
  }

  /** Keeps the session from timing out, and notices a far side that is gone without a word. */
  private async askForLife(now: number) {
    this.lifeAskedAt = now
    try {
      await this.read(serverState)
    } catch (error) {
      if (!this.isBroken)
        await this.close(generalFault(error, 'give a sign of life', { ...this.peer, answerMs: this.around.settings.patience.answer }))
    }
  }

  /** One subscription is silent: is it the whole connection, or only that? Its values are no longer known to hold. */
  private async fallSilent(group: Group) {
    const silent = { since: group.heardAt, triedAgainAt: Date.now(), reading: false }
    group.silent = silent
    this.around.outages?.lost(steadyNow() - (Date.now() - group.heardAt))
    this.degrade(group.items, quality.UncertainLastUsableValue)
    try {
      await this.read(serverState)
      const why = this.faultOfSilence(group)
      if (group.silent === silent) this.around.journal.caution(this.around.name, why.what, why)
    } catch {
      // the sign of life that is missing then tells what is wrong
    }
  }

  /** Tries again after a while; until then the items are read, if they may be. */
  private endure(
    trouble: { triedAgainAt: number; reading: boolean },
    items: Iterable<Item>,
    again: () => Promise<void>,
    everyMs = subscribeAgainMs,
  ) {
    const now = Date.now()
    if (now - trouble.triedAgainAt > everyMs) {
      trouble.triedAgainAt = now
      this.enqueue(again)
    }
    if (!this.around.settings.reading.readInstead || trouble.reading) return
    trouble.reading = true
    void this.readItems(items)
      .catch(() => {})
      .finally(() => (trouble.reading = false))
  }

  /** Reads items once: what a break or a silence may have hidden. */
  private async readItems(wanted: Iterable<Item>) {
    const items = [...wanted].filter((item) => item.refusal === null && nodeIdOf(item, this.namespaces) !== null)
    await this.services.inParts('read', items, async (part) => {
      const nodes = part.map((item) => ({ nodeId: nodeIdOf(item, this.namespaces)!, attributeId: AttributeIds.Value }))
      const dataValues = await this.session.read(nodes)
      await promoteOpaqueStructure(this.session as never, dataValues)
      const now = Date.now()
      for (const [index, item] of part.entries()) take(item, dataValues[index]!, now, this.intake)
      this.intake.flush()
      return part
    })
  }

  /** Nobody tells any more whether these values hold. */
  private degradeGood(items: Iterable<Item>) {
    const now = Date.now()
    for (const item of items)
      for (const { point } of item.targets)
        if (isGood(this.intake.quality[point.handle]!)) this.intake.degrade(point.handle, quality.UncertainLastUsableValue, now)
    this.intake.flush()
  }

  private degrade(items: Iterable<Item>, code: number) {
    const now = Date.now()
    for (const item of items) for (const { point } of item.targets) this.intake.degrade(point.handle, code, now)
    this.intake.flush()
  }
}

const peerOf = ({ client }: Opened) => {
  const url = /^opc\.tcp:\/\/(\[[^\]]+\]|[^:/]+):(\d+)/.exec(client.endpointUrl)
  return { host: url?.[1] ?? 'the server', port: Number(url?.[2] ?? 0) }
}
