import { baseProblem, goalOfBase } from '../http/base'
import type { AddressFacts, FieldProblem, PointDefinition, PointOptions, Protocol } from '../links/protocol'
import type { Spot } from '../notes/spot'
import { dataTypes, type DataType } from '../tags/types'
import { formatAddress, parseAddress, type SensorAddress } from './address'
import { ioLinkColumns } from './columns'
import { whyNotKept } from './keeping'
import { ioLinkLoad } from './load'
import { kindOf, pointOf } from './point'
import { ioLinkReference } from './reference'
import type { IoLinkPointOptions, IoLinkSettings } from './settings'

const typesOf = (address: SensorAddress): readonly DataType[] => {
  if (address.of === 'state' || address.of === 'events') return ['string']
  return dataTypes.filter((type) => kindOf(type) !== null && pointOf(asPoint(address, type)) !== null)
}

const asPoint = (address: SensorAddress, type: DataType): PointDefinition => ({
  ...{ address: formatAddress(address), type, options: {}, access: 'read' },
})

const isWritable = ({ of }: SensorAddress) => of === 'out' || of === 'parameter'

const usualType = (address: SensorAddress, types: readonly DataType[]): DataType => {
  if (address.of === 'parameter' && address.bits === 0) return 'string'
  if (address.of !== 'in' && address.of !== 'out' && address.of !== 'parameter') return 'string'
  if (address.bits === 1) return 'bool'
  return types.find((type) => type.startsWith('int')) ?? types[0]!
}

const describe = (text: string): AddressFacts => {
  const parsed = parseAddress(text)
  if (!parsed.ok) return parsed
  const { address } = parsed
  const types = typesOf(address)
  if (types.length === 0) return { ok: false, problem: 'No type has so many bits: letters have eight each, numbers 64 at most.' }
  return {
    ok: true,
    canonical: formatAddress(address),
    notations: [
      { label: 'port', text: String(address.port) },
      { label: 'holds', text: whatText(address) },
    ],
    note: null,
    types,
    defaultType: usualType(address, types),
    writable: isWritable(address),
    unit: String(address.port),
  }
}

const whatText = (address: SensorAddress): string => {
  if (address.of === 'state') return 'how the port is'
  if (address.of === 'events') return 'what its device reports'
  if (address.of === 'parameter')
    return `parameter ${address.index}${address.subindex === 0 ? '' : `, part ${address.subindex}`}${address.bits === 0 ? '' : `, ${bitsText(address)}`}`
  return `process data ${address.of}, ${bitsText(address)}`
}

const bitsText = ({ bitOffset, bits }: { bitOffset: number; bits: number }) =>
  bits === 1 ? `bit ${bitOffset}` : `bits ${bitOffset} to ${bitOffset + bits - 1}`

const problems = (point: PointDefinition): FieldProblem[] => {
  const parsed = parseAddress(point.address)
  if (!parsed.ok) return [{ field: 'address', message: parsed.problem }]
  const { address } = parsed
  const { form } = point.options as IoLinkPointOptions
  const found: (FieldProblem | null)[] = [
    pointOf(point) === null
      ? { field: 'type', message: `${formatAddress(address)} cannot be read as ${point.type}: ${whyUnfit(address, point.type)}` }
      : null,
    point.access === 'readwrite' && !isWritable(address)
      ? { field: 'access', message: 'Only process data out and parameters are written.' }
      : null,
    form !== undefined && point.type !== 'string' ? { field: 'options.form', message: 'A form is for letters: leave it out.' } : null,
  ]
  return found.filter((problem) => problem !== null)
}

const whyUnfit = (address: SensorAddress, type: DataType): string => {
  if (address.of === 'state' || address.of === 'events') return 'it is text.'
  if (kindOf(type) === null) return 'devices have no such type.'
  if (type === 'bool') return 'it is one bit.'
  if (type === 'string') return 'letters have eight bits each.'
  return type === 'float32' ? 'it has 32 bits.' : `it has ${address.bits} bits.`
}

const spot = (point: PointDefinition): Spot | null => {
  const parsed = parseAddress(point.address)
  if (!parsed.ok) return null
  const { address } = parsed
  const text = formatAddress(address)
  if (address.of === 'state' || address.of === 'events')
    return { place: text, from: 0, to: 1, bit: null, reading: point.type, address: text }
  const place =
    address.of === 'parameter' ? `${address.port}:parameter/${address.index}.${address.subindex}` : `${address.port}:${address.of}`
  return {
    place,
    from: address.bitOffset,
    to: address.bitOffset + Math.max(1, address.bits),
    bit: null,
    reading: point.type,
    address: text,
  }
}

const next = (point: PointDefinition, by: number | null = null): string | null => {
  const parsed = parseAddress(point.address)
  if (!parsed.ok) return point.address
  const { address } = parsed
  if (address.of === 'state' || address.of === 'events') return formatAddress({ ...address, port: address.port + (by ?? 1) })
  if (address.of === 'parameter')
    return address.subindex > 0
      ? formatAddress({ ...address, subindex: address.subindex + (by ?? 1) })
      : formatAddress({ ...address, index: address.index + (by ?? 1) })
  return formatAddress({ ...address, bitOffset: address.bitOffset + (by ?? address.bits) })
}

const onUnit = (text: string, unit: string): string | null => {
  const parsed = parseAddress(text)
  const port = Number(unit)
  return parsed.ok && /^\d{1,3}$/.test(unit) && port >= 1 && port <= 255 ? formatAddress({ ...parsed.address, port }) : null
}

const optionsText = (point: PointDefinition) => (point.options as IoLinkPointOptions).form ?? ''

const leanOptions = (options: PointOptions): PointOptions => {
  const { form, ...rest } = options as IoLinkPointOptions
  return form === 'hex' ? { ...rest, form } : rest
}

export const ioLink: Protocol = {
  kind: 'iolink',
  title: 'IO-Link',
  subtitle: 'Masters of smart sensors, over HTTP and JSON',
  capabilities: { browse: true, read: true, watch: false, write: true, publish: false, messages: false, tap: false },
  part: 'port',
  frames: null,
  goal: (settings) => goalOfBase(settings as IoLinkSettings),
  place: (settings) => {
    const { base } = settings as IoLinkSettings
    return baseProblem(base) === null ? base.replace(/^https?:\/\//i, '') : base
  },
  interval: (settings) => (settings as IoLinkSettings).interval,
  describe,
  isPassing: () => false,
  problems,
  spot,
  load: (points, settings, experience) => ioLinkLoad(points, settings as IoLinkSettings, experience),
  next,
  onUnit,
  shortAddress: (text) => {
    const parsed = parseAddress(text)
    return parsed.ok ? formatAddress(parsed.address) : text
  },
  reference: (settings) => ioLinkReference(settings as IoLinkSettings),
  words: null,
  optionsText,
  leanOptions,
  whyNotKept: (before, after) => whyNotKept(before as IoLinkSettings, after as IoLinkSettings),
  optionsFor: (type, options) => (type === 'string' ? options : {}),
  columns: ioLinkColumns,
}
