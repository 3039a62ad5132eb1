import type { DataValue } from 'node-opcua'
import { parseMember, type MemberStep } from '#core/opcua/member'
import { oddJudge, type OddJudge } from '#core/tags/odd'
import { parseNodeAddress, withIndex, type NodeAddress } from '#core/opcua/nodeId'
import type { OpcuaPointOptions } from '#core/opcua/settings'
import type { Handle } from '../../table/tagTable'
import type { Point } from '../driver'

/** One tag that lives in an item's value, whole or as a member of it. */
export interface Target {
  point: Point
  steps: readonly MemberStep[]
  odd: OddJudge | null
}

/**
 * One node that the server watches for us. Tags that share a node, an interval and a deadband share
 * the item: ten members of a structure cost as much as one.
 */
export interface Item {
  key: string
  /** What the server calls it by in notifications. */
  clientHandle: number
  address: NodeAddress
  interval: number
  deadband: OpcuaPointOptions['deadband']
  targets: Target[]
  /** Given by the server when it agreed to watch; null: it does not, for the reason in `refusal`. */
  monitoredItemId: number | null
  refusal: number | null
  /** How often the server tells it at most, as it revised what was asked for, ms; null: it does not watch it. */
  given: number | null
  /** The server does not even have its namespace. */
  noNamespace: boolean
  /** Why the server does not take the deadband; every change is notified then. */
  filterRefusal: number | null
  /** What came last. */
  last: DataValue | null
}

/** All items of a link, by tag and by client handle. */
export class ItemBook {
  private byKey = new Map<string, Item>()
  private byHandle = new Map<Handle, Item>()
  private byClientHandle = new Map<number, Item>()
  private lastHandle = 0

  /** Places a tag; returns the item when it is new, else null. Null also where the address cannot be read. */
  place(point: Point, asTheLink: number): Item | null {
    const parsed = parseNodeAddress(point.address)
    if (!parsed.ok) return null
    const { member = '', deadband } = point.options as OpcuaPointOptions
    const steps = parseMember(member)
    const interval = point.interval ?? asTheLink
    const key = JSON.stringify([point.address, interval, deadband ?? null])
    const known = this.byKey.get(key)
    const item = known ?? this.make(key, parsed.address, interval, deadband)
    item.targets.push({ point, steps: steps.ok ? steps.steps : [], odd: oddJudge(point.type, point.odd) })
    this.byHandle.set(point.handle, item)
    return known ? null : item
  }

  /** Takes a tag out; returns the item when nobody is left on it. */
  remove(handle: Handle): Item | null {
    const item = this.byHandle.get(handle)
    if (!item) return null
    this.byHandle.delete(handle)
    item.targets = item.targets.filter(({ point }) => point.handle !== handle)
    if (item.targets.length > 0) return null
    this.byKey.delete(item.key)
    this.byClientHandle.delete(item.clientHandle)
    return item
  }

  /** What a notification is about; nothing where the item is gone meanwhile. */
  notified(clientHandle: number): Item | undefined {
    return this.byClientHandle.get(clientHandle)
  }

  of(handle: Handle): Item | undefined {
    return this.byHandle.get(handle)
  }

  target(handle: Handle): Target | undefined {
    return this.byHandle.get(handle)?.targets.find(({ point }) => point.handle === handle)
  }

  /** Items that the server does not watch for us. */
  refused(): Item[] {
    return this.all().filter(({ refusal }) => refusal !== null)
  }

  all(): Item[] {
    return [...this.byKey.values()]
  }

  private make(key: string, address: NodeAddress, interval: number, deadband: Item['deadband']): Item {
    // never given twice: a notification still under way for a node that was dropped must not pass for another's
    const clientHandle = ++this.lastHandle
    const item: Item = {
      key,
      clientHandle,
      address,
      interval,
      deadband,
      targets: [],
      monitoredItemId: null,
      refusal: null,
      given: null,
      noNamespace: false,
      filterRefusal: null,
      last: null,
    }
    this.byClientHandle.set(clientHandle, item)
    this.byKey.set(key, item)
    return item
  }
}

/** The NodeId as the server has it now, or null where it has no such namespace. */
export const nodeIdOf = (item: Item, namespaces: readonly string[]) => withIndex(item.address, namespaces)
