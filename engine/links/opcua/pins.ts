import { formatNodeAddress, isNumbered, parseNodeAddress, withIndex, withUri } from '#core/opcua/nodeId'
import type { Handle } from '../../table/tagTable'
import type { Point } from '../driver'

/**
 * Points whose address goes by the number of a namespace. Once the server told its namespaces, each is pinned
 * to the URI that the number stood for, and stays with it, whatever the number means later.
 */
export class Pins {
  private pinned = new Map<Handle, { typed: string; lasting: string }>()
  private fresh = new Map<Handle, string>()

  /** The point by its lasting address, as far as that is known. */
  settle(point: Point, namespaces: readonly string[] | null): Point {
    if (!isNumbered(point.address)) {
      this.forget(point.handle)
      return point
    }
    const known = this.pinned.get(point.handle)
    if (known?.typed === point.address) return { ...point, address: known.lasting }
    const lasting = namespaces && lastingAddress(point.address, namespaces)
    if (!lasting) return point
    this.pinned.set(point.handle, { typed: point.address, lasting })
    this.fresh.set(point.handle, lasting)
    return { ...point, address: lasting }
  }

  forget(handle: Handle) {
    this.pinned.delete(handle)
    this.fresh.delete(handle)
  }

  /** What was pinned since this was asked last. */
  takeFresh(): ReadonlyMap<Handle, string> {
    const fresh = this.fresh
    this.fresh = new Map()
    return fresh
  }
}

/** The same node by the URI of its namespace; null where the server has no namespace of that number. */
export const lastingAddress = (text: string, namespaces: readonly string[]): string | null => {
  const parsed = parseNodeAddress(text)
  if (!parsed.ok) return null
  const { address } = parsed
  if (address.index === null) return formatNodeAddress(address)
  const nodeId = withIndex(address, namespaces)
  const lasting = nodeId === null ? null : withUri(nodeId, namespaces)
  return lasting !== null && !isNumbered(lasting) ? lasting : null
}
