import {
  AttributeIds,
  DataChangeFilter,
  DataChangeTrigger,
  DeadbandType,
  DataChangeNotification,
  MonitoringMode,
  promoteOpaqueStructure,
  StatusChangeNotification,
  TimestampsToReturn,
  type ClientSessionRawSubscriptionService,
  type ClientSubscription,
  type MonitoredItemCreateRequestOptions,
  type MonitoredItemCreateResult,
  type NotificationMessage,
} from 'node-opcua'
import { grouped } from '#core/lists/grouped'
import { quality, isGood } from '#core/tags/quality'
import type { OpcuaSettings } from '#core/opcua/settings'
import type { SampleSink } from '../../table/intake'
import { nodeIdOf, type Item, type ItemBook } from './items'
import { take } from './sample'
import type { Services } from './services'
import { hearNotifications } from '../../opcua/internals'

/** How often a quiet subscription gives a sign of life, about. */
const keepAliveMs = 5000
const lifetimeMs = 60_000
/** Ages are shown in tenths of a second and counted in seconds; oftener would be work for nothing. */
const confirmEveryMs = 500
const badTooManyMonitoredItems = 0x80db0000

/** A subscription that gives no sign of life although reads work. */
interface Silence {
  since: number
  triedAgainAt: number
  reading: boolean
}

export interface Group {
  interval: number
  subscription: ClientSubscription
  /** As it was made: the package may make another one in its place, without our items. */
  id: number
  items: Set<Item>
  /** Unix milliseconds of the last response of any kind. */
  heardAt: number
  /** When everything that did not change was last confirmed. */
  confirmedAt: number
  full: boolean
  silent: Silence | null
}

/** What a link's subscriptions need of their surroundings. */
interface Surroundings {
  services: Services
  namespaces: readonly string[]
  book: ItemBook
  table: SampleSink
  settings: OpcuaSettings
  /** Whether what comes may be believed: after a break, not before it is known that the server is still the same. */
  isTrusted(): boolean
  /** It watches an item, and not with the deadband that was asked for. */
  withoutDeadband(item: Item): void
  /** The server ended a subscription by itself, or made it anew: items are to be set up again. */
  lost(): void
  /** A subscription that was silent gives signs of life again. */
  heardAgain(group: Group): void
}

/**
 * The subscriptions of one session: one per publishing interval, more where the server's limits ask
 * for it. Items are created by plain service calls and notifications written straight into the tag
 * table: the package keeps no object per item.
 */
export class Watching {
  private groups: Group[] = []
  /** Values whose structures are being unwrapped; later ones wait their turn. */
  private unwrapping: Promise<void> = Promise.resolve()
  /** A subscription that takes the place of a silent one is silent, too, until something comes. */
  private inherited: Silence | null = null
  notifications = 0
  changes = 0

  constructor(private around: Surroundings) {}

  /** The services as the standard has them, without the package's bookkeeping. */
  private get raw(): ClientSessionRawSubscriptionService {
    return this.around.services.session as unknown as ClientSessionRawSubscriptionService
  }

  /** Has these items watched. Those that the server refuses carry its status code afterwards. */
  async add(items: readonly Item[]) {
    for (const [interval, part] of grouped(items, ({ interval }) => interval)) await this.addAtInterval(interval, part)
    this.around.table.flush()
  }

  async remove(items: readonly Item[]) {
    for (const group of this.groups) {
      const mine = items.filter((item) => group.items.delete(item) && item.monitoredItemId !== null)
      group.full &&= mine.length === 0
      await this.around.services.inParts('items', mine, async (part) => {
        const monitoredItemIds = part.map(({ monitoredItemId }) => monitoredItemId!)
        await this.raw.deleteMonitoredItems({ subscriptionId: group.subscription.subscriptionId, monitoredItemIds })
        return part
      })
    }
  }

  get subscriptionCount() {
    return this.groups.length
  }

  get itemCount() {
    return this.groups.reduce((total, { items }) => total + items.size, 0)
  }

  /** What the server made of the intervals that were asked for, fastest first. */
  get intervals() {
    return [...new Set(this.groups.map(({ subscription }) => subscription.publishingInterval))].sort((a, b) => a - b)
  }

  /** Subscriptions that should have given a sign of life, and are not known to be silent yet. */
  overdue(now: number): Group[] {
    return this.groups.filter((group) => group.silent === null && now - group.heardAt > dueAfter(group))
  }

  /** Whether a subscription was made anew behind our back: it gives signs of life, and watches nothing. */
  get isReplaced(): boolean {
    return this.groups.some(({ id, subscription }) => subscription.subscriptionId !== id)
  }

  get silent(): (Group & { silent: Silence })[] {
    return this.groups.filter((group): group is Group & { silent: Silence } => group.silent !== null)
  }

  /** Whether what came last for an item may be taken for what is there now. */
  isLive(item: Item): boolean {
    return this.groups.some((group) => group.silent === null && group.items.has(item))
  }

  /** Ends one subscription and has its items watched anew; the others go on. */
  async renew(group: Group) {
    if (!this.groups.includes(group)) return
    await group.subscription.terminate().catch(() => {})
    const items = [...group.items]
    group.items.clear()
    group.full = true
    for (const item of items) item.monitoredItemId = null
    this.inherited = group.silent
    try {
      await this.add(items)
    } catch (error) {
      // items without a subscription would be forgotten: everything is set up anew
      this.around.lost()
      throw error
    } finally {
      this.inherited = null
      this.groups = this.groups.filter((other) => other !== group)
    }
  }

  async close() {
    const groups = this.groups
    this.groups = []
    await Promise.all(groups.map(({ subscription }) => subscription.terminate().catch(() => {})))
  }

  private async addAtInterval(interval: number, items: Item[]) {
    let waiting = this.resolve(items)
    while (waiting.length > 0) {
      const group = this.groups.find((candidate) => candidate.interval === interval && !candidate.full) ?? (await this.openGroup(interval))
      const left = await this.addTo(group, waiting)
      if (left.length === waiting.length && group.items.size === 0) return this.refuseAll(left, badTooManyMonitoredItems)
      waiting = left
    }
  }

  /** Items whose namespace the server does not have are no use to ask for. */
  private resolve(items: Item[]): Item[] {
    return items.filter((item) => {
      item.noNamespace = nodeIdOf(item, this.around.namespaces) === null
      if (!item.noNamespace) return true
      this.refuse(item, quality.BadNodeIdUnknown)
      return false
    })
  }

  private async openGroup(interval: number): Promise<Group> {
    const keepAliveCount = Math.max(1, Math.min(1000, Math.round(keepAliveMs / interval)))
    const subscription = await this.around.services.session.createSubscription2({
      requestedPublishingInterval: interval,
      requestedMaxKeepAliveCount: keepAliveCount,
      requestedLifetimeCount: Math.max(3 * keepAliveCount, Math.ceil(lifetimeMs / interval)),
      maxNotificationsPerPublish: 0,
      publishingEnabled: true,
      priority: 1,
    })
    const group: Group = {
      interval,
      subscription,
      id: subscription.subscriptionId,
      items: new Set(),
      heardAt: Date.now(),
      confirmedAt: 0,
      full: false,
      silent: this.inherited,
    }
    this.listen(group)
    this.groups.push(group)
    return group
  }

  /**
   * The package would hand each value to an object per item; here the message goes to the table as it
   * comes. What is no data change is left to the package, which keeps the subscription's life by it.
   */
  private listen(group: Group) {
    const { subscription } = group
    const take = (message: NotificationMessage) => {
      group.heardAt = Date.now()
      if (group.silent) this.awake(group)
      if (message.notificationData?.some((data) => data instanceof StatusChangeNotification)) return false
      if (this.around.isTrusted()) this.takeMessage(group, message)
      return true
    }
    hearNotifications(subscription, take, () => this.around.lost())
    subscription.on('status_changed', (status) => {
      if (!status.isGood()) this.around.lost()
    })
  }

  private awake(group: Group) {
    group.silent = null
    this.around.heardAgain(group)
  }

  private takeMessage(group: Group, message: NotificationMessage) {
    const { table } = this.around
    const seenAt = group.heardAt
    this.notifications++
    let structured = false
    for (const data of message.notificationData ?? []) {
      if (!(data instanceof DataChangeNotification)) continue
      const monitored = data.monitoredItems ?? []
      this.changes += monitored.length
      for (const { clientHandle, value } of monitored) {
        const item = this.around.book.notified(clientHandle)
        if (!item) continue
        if (isStructure(value)) structured = true
        else take(item, value, seenAt, table)
      }
    }
    if (structured) this.unwrapLater(message, seenAt)
    if (seenAt - group.confirmedAt >= confirmEveryMs) confirmAll(group, seenAt, table)
    table.flush()
  }

  /** Structures come packed; what is in them is known only once the server was asked for their definition. */
  private unwrapLater(message: NotificationMessage, seenAt: number) {
    const found = (message.notificationData ?? []).flatMap((data) =>
      data instanceof DataChangeNotification ? (data.monitoredItems ?? []).filter(({ value }) => isStructure(value)) : [],
    )
    this.unwrapping = this.unwrapping
      .then(() =>
        promoteOpaqueStructure(
          this.around.services.session as never,
          found.map(({ value }) => value),
        ),
      )
      .catch(() => {})
      .then(() => {
        for (const { clientHandle, value } of found) {
          const item = this.around.book.notified(clientHandle)
          if (item) take(item, value, seenAt, this.around.table)
        }
        this.around.table.flush()
      })
  }

  /** Returns the items for which this subscription has no room. */
  private addTo(group: Group, items: Item[]): Promise<Item[]> {
    return this.around.services.inParts('items', items, async (part) => (group.full ? part : this.create(group, part, true)))
  }

  private async create(group: Group, items: readonly Item[], withFilter: boolean): Promise<Item[]> {
    const { results } = await this.raw.createMonitoredItems({
      subscriptionId: group.subscription.subscriptionId,
      timestampsToReturn: TimestampsToReturn.Both,
      itemsToCreate: items.map((item) => this.requestFor(item, withFilter)),
    })
    const noRoom: Item[] = []
    const noFilter: Item[] = []
    for (const [index, item] of items.entries()) {
      const result = results![index]!
      const code = result.statusCode.value
      if (isGood(code)) {
        accept(group, item, result)
        if (withFilter) item.filterRefusal = null
        else this.around.withoutDeadband(item)
      } else if (code === badTooManyMonitoredItems) noRoom.push(item)
      else if (withFilter && item.deadband && refusesFilter.has(code)) {
        item.filterRefusal = code
        noFilter.push(item)
      } else this.refuse(item, code)
    }
    if (noRoom.length > 0) group.full = true
    if (noFilter.length > 0) noRoom.push(...(await this.create(group, noFilter, false)))
    return noRoom
  }

  private requestFor(item: Item, withFilter: boolean): MonitoredItemCreateRequestOptions {
    const { reading } = this.around.settings
    return {
      itemToMonitor: { nodeId: nodeIdOf(item, this.around.namespaces)!, attributeId: AttributeIds.Value },
      monitoringMode: MonitoringMode.Reporting,
      requestedParameters: {
        clientHandle: item.clientHandle,
        samplingInterval: Math.min(reading.sampling, item.interval),
        queueSize: reading.queue,
        discardOldest: true,
        filter: withFilter && item.deadband ? filterOf(item.deadband) : null,
      },
    }
  }

  private refuseAll(items: readonly Item[], code: number) {
    for (const item of items) this.refuse(item, code)
  }

  private refuse(item: Item, code: number) {
    item.refusal = code
    item.monitoredItemId = null
    const now = Date.now()
    for (const { point } of item.targets) this.around.table.degrade(point.handle, code, now)
  }
}

/** BadMonitoredItemFilterUnsupported, BadFilterNotAllowed, BadDeadbandFilterInvalid. */
const refusesFilter = new Set([0x80440000, 0x80450000, 0x808e0000])

const dueAfter = ({ subscription }: Group) => subscription.publishingInterval * (subscription.maxKeepAliveCount + 1) + 2000

const accept = (group: Group, item: Item, result: MonitoredItemCreateResult) => {
  item.monitoredItemId = result.monitoredItemId
  item.refusal = null
  // a sampling interval of zero or less: as soon as it changes, or with the subscription (OPC 10000-4, 7.21)
  item.given = Math.max(group.subscription.publishingInterval, result.revisedSamplingInterval)
  group.items.add(item)
}

/** OPC 10000-4, 7.22.2: what is within the deadband of the last value is not told. */
const filterOf = ({ kind, value }: NonNullable<Item['deadband']>) =>
  new DataChangeFilter({
    trigger: DataChangeTrigger.StatusValue,
    deadbandType: kind === 'percent' ? DeadbandType.Percent : DeadbandType.Absolute,
    deadbandValue: value,
  })

/** What a response does not mention is as it was (OPC 10000-4, 5.14.1.1). */
const confirmAll = (group: Group, seenAt: number, table: SampleSink) => {
  group.confirmedAt = seenAt
  for (const item of group.items) for (const { point } of item.targets) table.confirm(point.handle, seenAt)
}

const extensionObject = 22
const isStructure = (value: { value?: { dataType: number } | null }) => value.value?.dataType === extensionObject
