import type { AddressFacts, FieldProblem, PointDefinition, PointOptions, Protocol } from '../links/protocol'
import type { Spot } from '../notes/spot'
import { dataTypes, isNumeric, type DataType } from '../tags/types'
import { formatAddress, parseAddress, shortText, type BacnetAddress } from './address'
import { bacnetColumns } from './columns'
import { bacnetLoad } from './load'
import { deviceType, objectType } from './names/objectTypes'
import { propertyName } from './names/properties'
import { mostInstance } from './objectId'
import { isCommandable, isPresentValue } from './point'
import { formOf, isOnlyRead, prop } from './property'
import { bacnetReference } from './reference'
import type { BacnetPointOptions, BacnetSettings } from './settings'
import { bacnetFrames } from '../wire/frames'

const optionsOf = (point: PointDefinition) => point.options as BacnetPointOptions

const typesOf = ({ object, property, index }: BacnetAddress): readonly DataType[] => {
  const form = formOf(object.type, property)
  if (!form) return dataTypes
  if (index !== null) return index === 0 ? ['uint32', 'int32', 'uint16'] : [form.type.replace('[]', '') as DataType]
  if (property === prop.priorityArray) return dataTypes.filter((type) => type.endsWith('[]'))
  return compatible[form.type] ?? [form.type]
}

const wholes: readonly DataType[] = ['uint32', 'int32', 'uint16', 'int16', 'uint8', 'int8', 'uint64', 'int64', 'float64', 'float32']
const compatible: Partial<Record<DataType, readonly DataType[]>> = {
  float32: ['float32', 'float64'],
  bool: ['bool', 'uint8', 'int32', 'uint32'],
  uint32: [...wholes, 'bool'],
  int32: wholes,
  string: ['string'],
  'bool[]': ['bool[]', 'string'],
  datetime: ['datetime'],
}

/** Inputs, too: they can be written while they are out of service. */
const isWritable = ({ property }: BacnetAddress): boolean => !isOnlyRead(property)

const isCommanded = ({ object }: BacnetAddress) => objectType(object.type)?.commandable !== undefined

const describe = (text: string): AddressFacts => {
  const parsed = parseAddress(text)
  if (!parsed.ok) return parsed
  const { address } = parsed
  const type = objectType(address.object.type)
  return {
    ok: true,
    canonical: formatAddress(address),
    notations: [
      { label: 'device', text: String(address.device) },
      { label: 'object', text: shortText(address) },
      { label: 'property', text: propertyName(address.property) },
    ],
    note:
      address.property === prop.presentValue && type && !isCommanded(address) && !type.writable
        ? 'An input: it can be written only while it is out of service.'
        : null,
    types: typesOf(address),
    defaultType: typesOf(address)[0] === 'bool' && !formOf(address.object.type, address.property) ? 'float32' : typesOf(address)[0]!,
    writable: isWritable(address),
    unit: String(address.device),
  }
}

const problems = (point: PointDefinition): FieldProblem[] => {
  const parsed = parseAddress(point.address)
  if (!parsed.ok) return [{ field: 'address', message: parsed.problem }]
  const { address } = parsed
  return [typeProblem(point, address), ...contradictions(point, address)].filter((problem) => problem !== null)
}

const typeProblem = (point: PointDefinition, address: BacnetAddress): FieldProblem | null =>
  typesOf(address).includes(point.type)
    ? null
    : {
        field: 'type',
        message: `${formatAddress(address)} cannot be read as ${point.type}: it is ${typesOf(address).slice(0, 4).join(', ')}.`,
      }

/** What cannot be meant together. */
const contradictions = (point: PointDefinition, address: BacnetAddress): (FieldProblem | null)[] => {
  const { notices, increment, priority } = optionsOf(point)
  const name = propertyName(address.property)
  return [
    point.access === 'readwrite' && !isWritable(address) ? { field: 'access', message: `${name} can only be read.` } : null,
    priority !== undefined && point.access !== 'readwrite'
      ? { field: 'options.priority', message: 'A tag that is only read needs no priority: let it be written, or leave the priority out.' }
      : null,
    priority !== undefined && !isCommandable(address)
      ? { field: 'options.priority', message: `What is written to ${shortText(address)} does not go by priorities: leave it out.` }
      : null,
    increment !== undefined && notices === 'off'
      ? { field: 'options.increment', message: 'Without notifications an increment says nothing: leave it out, or let changes be told.' }
      : null,
    increment !== undefined && !isNumeric(point.type)
      ? { field: 'options.increment', message: 'An increment is for numbers: leave it out.' }
      : null,
    increment !== undefined && notices === undefined && !isPresentValue(address)
      ? {
          field: 'options.increment',
          message: `Changes of ${name} are told only where that is chosen: choose it, or leave the increment out.`,
        }
      : null,
  ]
}

/** Points of one property can meet. */
const spot = (point: PointDefinition): Spot | null => {
  const parsed = parseAddress(point.address)
  if (!parsed.ok) return null
  const text = formatAddress(parsed.address)
  return { place: text, from: 0, to: 1, bit: null, reading: point.type, address: text }
}

const next = (point: PointDefinition, by: number | null = null): string | null => {
  const parsed = parseAddress(point.address)
  if (!parsed.ok) return point.address
  const { address } = parsed
  const step = by ?? 1
  if (address.index !== null) return formatAddress({ ...address, index: address.index + step })
  return formatAddress({ ...address, object: { ...address.object, instance: address.object.instance + step } })
}

const onUnit = (text: string, unit: string): string | null => {
  const parsed = parseAddress(text)
  if (!parsed.ok || !/^\d+$/.test(unit) || Number(unit) > mostInstance) return null
  const { address } = parsed
  const isOfDevice = address.object.type === deviceType && address.object.instance === address.device
  const object = isOfDevice ? { type: deviceType, instance: Number(unit) } : address.object
  return formatAddress({ ...address, object, device: Number(unit) })
}

const shortAddress = (text: string) => {
  const parsed = parseAddress(text)
  return parsed.ok ? shortText(parsed.address) : text
}

const optionsText = (point: PointDefinition): string => {
  const { notices, increment, priority } = optionsOf(point)
  return [notices, increment === undefined ? undefined : `±${increment}`, priority === undefined ? undefined : `priority ${priority}`]
    .filter((word) => word !== undefined)
    .join(' ')
}

const leanOptions = (options: PointOptions, settings: unknown): PointOptions => {
  const { notices, priority, ...rest } = options as BacnetPointOptions
  const { notices: usual, writes } = settings as BacnetSettings
  return {
    ...rest,
    ...(notices === undefined || notices === usual.kind ? {} : { notices }),
    ...(priority === undefined || priority === writes.priority ? {} : { priority }),
  }
}

/** Who-Is to one machine (ANSI/ASHRAE 135, 16.10.1, J.2.11). */
const whoIsThere = '810a000801001008'

export const bacnet: Protocol = {
  kind: 'bacnet-ip',
  title: 'BACnet/IP',
  subtitle: 'Building services: devices with objects and set points',
  isMuteUntilAsked: true,
  capabilities: { browse: true, read: true, watch: true, write: true, publish: false, messages: false, tap: true },
  part: 'device',
  frames: bacnetFrames,
  goal: (settings) => {
    const { foreign, devices } = settings as BacnetSettings
    const [known] = foreign ? [foreign] : devices
    return known
      ? { speaks: 'BACnet/IP', host: known.host, port: known.port, carries: 'udp', usualPort: 47808, question: whoIsThere }
      : null
  },
  place: (settings) => {
    const { localAddress, port, foreign } = settings as BacnetSettings
    const own = `${localAddress || 'all interfaces'}, UDP ${port === 0 ? 'any' : port}`
    return foreign ? `${own}, through ${foreign.host}:${foreign.port}` : own
  },
  interval: (settings) => (settings as BacnetSettings).interval,
  describe,
  isPassing: () => false,
  problems,
  spot,
  load: (points, settings, experience) => bacnetLoad(points, settings as BacnetSettings, experience),
  next,
  onUnit,
  shortAddress,
  reference: (settings) => bacnetReference(settings as BacnetSettings),
  words: null,
  optionsText,
  leanOptions,
  whyNotKept: () => null,
  optionsFor: (type, options) => {
    const { increment, ...rest } = options as BacnetPointOptions
    return increment !== undefined && isNumeric(type) ? { ...rest, increment } : rest
  },
  columns: bacnetColumns,
}
