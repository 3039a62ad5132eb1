import type { PointOptions } from '../links/protocol'
import type { Form, FormKind } from '../readings/forms'
import type { ModbusType } from './layout'

const types: Partial<Record<FormKind, ModbusType>> = {
  ...{ uint16: 'uint16', int16: 'int16', uint32: 'uint32', int32: 'int32', uint64: 'uint64', int64: 'int64' },
  ...{ bcd16: 'uint16', bcd32: 'uint32' },
  ...{ float32: 'float32', float64: 'float64', text: 'string', unix32: 'uint32', unix64: 'uint64', bits: 'uint16' },
}

/** What a point is to be so that it reads its registers in this way; null: no point does. */
export const takesOf = ({ kind, order, width }: Form): { type: ModbusType; options: PointOptions } | null => {
  const type = types[kind]
  if (!type) return null
  const own = kind === 'text' ? { length: 2 * width } : kind === 'bcd16' || kind === 'bcd32' ? { coding: 'bcd' } : {}
  return { type, options: { ...(order === null ? {} : { order }), ...own } }
}
