import type { AddressFacts, FieldProblem, PointDefinition, PointOptions, Protocol } from '../links/protocol'
import type { Spot } from '../notes/spot'
import { elementOf, isArrayType, type DataType } from '../tags/types'
import { tpktFrames } from '../wire/frames'
import { defaultType, formatAddress, formatWithWidth, isCounted, isWritable, maxOffset, parseAddress, typesOf } from './address'
import { isoTcpColumns } from './columns'
import { elementBytes, formsOf, ordersMatter } from './layout'
import { isoTcpLoad } from './load'
import { pointOf, type IsoPoint } from './point'
import { isoTcpReference } from './reference'
import type { IsoPointOptions, IsoTcpSettings } from './settings'

const optionsOf = (point: PointDefinition) => point.options as IsoPointOptions

const describe = (text: string): AddressFacts => {
  const parsed = parseAddress(text)
  if (!parsed.ok) return parsed
  const { address, note } = parsed
  const type = defaultType(address)
  const bytes = isCounted(address.area) ? 2 : elementBytes({ type: elementOf(type), form: null, length: 0 })
  return {
    ok: true,
    canonical: formatAddress(address),
    notations: [
      ...(address.area === 'block' ? [{ label: 'block', text: String(address.block) }] : []),
      { label: isCounted(address.area) ? 'number' : 'byte', text: String(address.offset) },
      ...(isCounted(address.area) ? [] : [{ label: `as ${type}`, text: formatWithWidth(address, bytes) }]),
    ],
    ...{ note, unit: null, types: typesOf(address), defaultType: type, writable: isWritable(address.area) },
  }
}

const problems = (point: PointDefinition): FieldProblem[] => {
  const parsed = parseAddress(point.address)
  if (!parsed.ok) return [{ field: 'address', message: parsed.problem }]
  const { address } = parsed
  if (!typesOf(address).includes(point.type))
    return [{ field: 'type', message: `${formatAddress(address)} cannot be read as ${point.type}: ${typeHint(point.type, address.bit)}` }]
  const placed = pointOf(point, { order: 'big' })!
  return [
    formProblem(point),
    lengthProblem(point),
    countProblem(point),
    endProblem(placed, point),
    point.access === 'readwrite' && !isWritable(address.area)
      ? { field: 'access' as const, message: `A ${address.area} can only be read.` }
      : null,
  ].filter((problem) => problem !== null)
}

const typeHint = (type: DataType, bit: number | null) => {
  if (type === 'bool' || type === 'bool[]') return 'name the bit, as in DB10.4.0.'
  return bit === null ? 'choose another type.' : 'a bit is bool.'
}

const formProblem = (point: PointDefinition): FieldProblem | null => {
  const { form } = optionsOf(point)
  if (form === undefined || formsOf(point.type).includes(form)) return null
  const possible = formsOf(point.type)
  return {
    field: 'options.form',
    message: `A ${point.type} has ${possible.length === 0 ? 'no form of its own' : `one of these forms: ${possible.join(', ')}`}.`,
  }
}

const mostLetters = { counted: 254, wide: 16_382, chars: 16_382 } as const

const lengthProblem = (point: PointDefinition): FieldProblem | null => {
  if (point.type !== 'string') return null
  const { length = 0, form } = optionsOf(point)
  const most = mostLetters[(form ?? 'counted') as keyof typeof mostLetters] ?? 254
  if (Number.isInteger(length) && length >= 1 && length <= most) return null
  return { field: 'options.length', message: `A text of this form needs a length of 1 to ${most.toLocaleString('en-GB')} characters.` }
}

const mostElements = 10_000

const countProblem = (point: PointDefinition): FieldProblem | null => {
  if (!isArrayType(point.type)) return null
  const { count = 0 } = optionsOf(point)
  if (Number.isInteger(count) && count >= 1 && count <= mostElements) return null
  return { field: 'options.count', message: `An array needs its number of elements, 1 to ${mostElements.toLocaleString('en-GB')}.` }
}

const endProblem = ({ offset, count, row }: IsoPoint, point: PointDefinition): FieldProblem | null => {
  const last = offset + count - 1
  if (row.width === 2 || last <= maxOffset) return null
  return { field: 'address', message: `${point.type} covers ${count} bytes, ${offset} to ${last}, and a block ends at ${maxOffset}.` }
}

const readingOf = ({ layout }: IsoPoint, type: DataType) =>
  [type, ...(layout.form ? [layout.form] : ordersMatter(type, null) && layout.order === 'little' ? ['little'] : [])].join(' ')

/** Points of one block or area can meet. */
const spot = (point: PointDefinition, settings: unknown): Spot | null => {
  const placed = pointOf(point, settings as IsoTcpSettings)
  if (!placed) return null
  const { row, offset, count, address } = placed
  return {
    ...{ place: row.key, from: offset, to: offset + count, reading: readingOf(placed, point.type) },
    bit: point.type === 'bool' ? address.bit : null,
    address: formatAddress(address),
  }
}

const next = (point: PointDefinition, by: number | null = null): string | null => {
  const parsed = parseAddress(point.address)
  if (!parsed.ok) return point.address
  const { address } = parsed
  if (address.bit !== null && point.type === 'bool') {
    const bit = address.bit + (by ?? 1)
    return formatAddress({ ...address, bit: bit & 7, offset: address.offset + (bit >> 3) })
  }
  const width = pointOf(point, { order: 'big' })?.count ?? 1
  // words and wider begin at even bytes
  const step = width > 1 ? width + (width & 1) : width
  return formatAddress({ ...address, offset: address.offset + (by ?? step) })
}

const optionsText = (point: PointDefinition, settings: unknown): string => {
  const { form, order, count } = optionsOf(point)
  const { order: usual } = settings as IsoTcpSettings
  const shown = ordersMatter(point.type, form ?? null) && (order ?? usual) === 'little' ? 'little' : undefined
  return [form, shown, count === undefined ? undefined : `×${count}`].filter((word) => word !== undefined).join(' ')
}

const leanOptions = (options: PointOptions, settings: unknown): PointOptions => {
  const { order, ...rest } = options as IsoPointOptions
  return order === undefined || order === (settings as IsoTcpSettings).order ? rest : { order, ...rest }
}

const [usualLength, usualCount] = [32, 8]

const optionsFor = (type: DataType, options: PointOptions): PointOptions => {
  const { form, order, length, count } = options as IsoPointOptions
  return {
    ...(form !== undefined && formsOf(type).includes(form) ? { form } : {}),
    ...(order !== undefined && ordersMatter(type, null) ? { order } : {}),
    ...(type === 'string' ? { length: length ?? usualLength } : {}),
    ...(isArrayType(type) ? { count: count ?? usualCount } : {}),
  }
}

export const isoTcp: Protocol = {
  kind: 'iso-tcp',
  title: 'ISO-on-TCP',
  subtitle: 'Controllers with racks, slots and data blocks',
  capabilities: { browse: false, read: true, watch: false, write: true, publish: false, messages: false, tap: true },
  frames: tpktFrames,
  goal: (settings) => {
    const { host, port } = settings as IsoTcpSettings
    return { speaks: 'ISO-on-TCP', host, port, carries: 'tcp', usualPort: 102 }
  },
  place: (settings) => {
    const { host, port, way } = settings as IsoTcpSettings
    return `${host}:${port}, ${way.by === 'slot' ? `rack ${way.rack} slot ${way.slot}` : `TSAP ${way.theirs}`}`
  },
  interval: (settings) => (settings as IsoTcpSettings).interval,
  describe,
  isPassing: () => false,
  problems,
  spot,
  load: (points, settings, experience) => isoTcpLoad(points, settings as IsoTcpSettings, experience),
  next,
  onUnit: () => null,
  shortAddress: (address) => address,
  reference: (settings) => isoTcpReference(settings as IsoTcpSettings),
  words: null,
  optionsText,
  leanOptions,
  whyNotKept: () => null,
  optionsFor,
  columns: isoTcpColumns,
}
