import type { PlanItem } from '../links/planner'
import type { PointDefinition } from '../links/protocol'
import { elementOf, isArrayType } from '../tags/types'
import { isCounted, parseAddress, typesOf, type Area, type IsoAddress } from './address'
import { bytesOf, type Form, type IsoLayout } from './layout'
import type { IsoPointOptions, IsoTcpSettings } from './settings'

/** Where a point lies and how it is laid out, everything left open filled in. Offset and count in elements of its row. */
export interface IsoPoint extends PlanItem {
  /** Points of one row can share a request piece. */
  row: Row
  address: IsoAddress
  layout: IsoLayout
}

/** The bytes of a block, or of an area, in a row; as in `block 10` or `input`. */
export interface Row {
  key: string
  area: Area
  block: number
  /** Bytes of one element: timers and counters take two. */
  width: 1 | 2
}

export const rowOf = ({ area, block }: Pick<IsoAddress, 'area' | 'block'>): Row => ({
  ...{ area, block },
  key: area === 'block' ? `block ${block}` : area,
  width: isCounted(area) ? 2 : 1,
})

/** Null when the address cannot be read; the sheet refuses such a point before it is saved. */
export const pointOf = (point: PointDefinition, settings: Pick<IsoTcpSettings, 'order'>): IsoPoint | null => {
  const parsed = parseAddress(point.address)
  if (!parsed.ok || !typesOf(parsed.address).includes(point.type)) return null
  const { address } = parsed
  const layout = layoutOf(point, address, settings)
  const row = rowOf(address)
  return { row, address, layout, offset: address.offset, count: row.width === 2 ? 1 : bytesOf(layout) }
}

const layoutOf = ({ type, options }: PointDefinition, { area, bit }: IsoAddress, settings: Pick<IsoTcpSettings, 'order'>): IsoLayout => {
  const { form, order, length, count } = options as IsoPointOptions
  return {
    type: elementOf(type),
    form: form ?? usualForm(area, elementOf(type)),
    order: order ?? settings.order,
    length: length ?? 0,
    count: isArrayType(type) ? (count ?? 0) : 0,
    bit,
  }
}

const usualForm = (area: Area, type: string): Form | null => {
  if (area === 'timer') return 'timer'
  if (area === 'counter') return 'digits'
  return type === 'string' ? 'counted' : type === 'datetime' ? 'bcd8' : null
}
