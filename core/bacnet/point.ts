import type { PointDefinition } from '../links/protocol'
import { parseAddress, type BacnetAddress } from './address'
import { formOf, prop } from './property'
import type { BacnetPointOptions, BacnetSettings, NoticeKind } from './settings'
import type { AppTagName } from './tagged'
import { objectType } from './names/objectTypes'

/** A point, everything left open filled in. */
export interface BacnetPoint {
  address: BacnetAddress
  notices: NoticeKind
  /** Null: as the object has it. */
  increment: number | null
  /** Null: none is named. */
  priority: number | null
  /** What the property is on the wire, as far as the standard says. */
  tag: AppTagName | null
}

type Chosen = Pick<BacnetSettings, 'notices' | 'writes'>

/** Null when the address cannot be read; the sheet refuses such a point before it is saved. */
export const pointOf = (point: PointDefinition, { notices, writes }: Chosen): BacnetPoint | null => {
  const parsed = parseAddress(point.address)
  if (!parsed.ok) return null
  const { address } = parsed
  const options = point.options as BacnetPointOptions
  return {
    address,
    notices: canNotify(address) ? (options.notices ?? notices.kind) : 'off',
    increment: options.increment ?? null,
    priority: isCommandable(address) ? (options.priority ?? writes.priority) : null,
    tag: formOf(address.object.type, address.property)?.tag ?? null,
  }
}

/** Changes are told of present values; of other properties by devices that know how, where an increment or a choice asks for it. */
export const canNotify = ({ property, index }: BacnetAddress) => property === prop.presentValue && index === null

/** Whether what is written there goes by priorities. */
export const isCommandable = ({ object, property, index }: BacnetAddress): boolean =>
  property === prop.presentValue && index === null && (objectType(object.type) ? objectType(object.type)!.commandable !== undefined : true)
