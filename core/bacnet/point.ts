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
    notices: options.notices ?? (isPresentValue(address) ? notices.kind : 'off'),
    increment: options.increment ?? null,
    priority: isCommandable(address) ? (options.priority ?? writes.priority) : null,
    tag: formOf(address.object.type, address.property)?.tag ?? null,
  }
}

/** Its changes are told where nothing else is chosen; of other properties only where a tag asks for it: few devices know how. */
export const isPresentValue = ({ property, index }: Pick<BacnetAddress, 'property' | 'index'>) =>
  property === prop.presentValue && index === null

/** Whether changes are asked for property by property (135, 13.15) rather than as the object tells them (13.14). */
export const isToldByProperty = ({ address, increment }: Pick<BacnetPoint, 'address' | 'increment'>) =>
  increment !== null || !isPresentValue(address)

/** Whether what is written there goes by priorities. */
export const isCommandable = ({ object, property, index }: BacnetAddress): boolean =>
  isPresentValue({ property, index }) && (objectType(object.type) ? objectType(object.type)!.commandable !== undefined : true)
