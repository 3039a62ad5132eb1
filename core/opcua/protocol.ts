import type { AddressFacts, FieldProblem, PointDefinition, Protocol } from '../links/protocol'
import type { Spot } from '../notes/spot'
import { dataTypes, isNumeric } from '../tags/types'
import { opcuaColumns } from './columns'
import { endpointText, parseEndpoint } from './endpointAddress'
import { whyNotKept } from './keeping'
import { opcuaLoad } from './load'
import { parseMember } from './member'
import { formatNodeAddress, isNumbered, parseNodeAddress, type NodeAddress } from './nodeId'
import { opcuaReference } from './reference'
import type { OpcuaPointOptions, OpcuaSettings } from './settings'
import { uaFrames } from '../wire/frames'

const describe = (text: string): AddressFacts => {
  const parsed = parseNodeAddress(text)
  if (!parsed.ok) return parsed
  const { address } = parsed
  return {
    ok: true,
    canonical: formatNodeAddress(address),
    notations: notationsOf(address),
    note: address.index === null ? null : indexNote,
    types: dataTypes,
    defaultType: 'float64',
    writable: true,
    unit: null,
  }
}

const indexNote =
  'Servers may number their namespaces anew at each start. Once the link is connected, the URI takes the place of the number.'

/** Where a server is awaited, and which. */
const awaitedText = ({ interface: address, port, serverUri }: NonNullable<OpcuaSettings['awaits']>) =>
  `${serverUri || 'whoever'} dials ${address}:${port}`

const kindText = { i: 'number', s: 'text', g: 'GUID', b: 'bytes' } as const

const notationsOf = (address: NodeAddress) => [
  { label: 'namespace', text: address.namespace ?? (address.index === null ? 'the standard’s own' : `number ${address.index}`) },
  { label: kindText[address.kind], text: address.identifier },
]

const optionsOf = (point: PointDefinition) => point.options as OpcuaPointOptions

const problems = (point: PointDefinition): FieldProblem[] => {
  const parsed = parseNodeAddress(point.address)
  if (!parsed.ok) return [{ field: 'address', message: parsed.problem }]
  return [memberProblem(point), deadbandProblem(point)].filter((problem) => problem !== null)
}

const memberProblem = (point: PointDefinition): FieldProblem | null => {
  const parsed = parseMember(optionsOf(point).member ?? '')
  return parsed.ok ? null : { field: 'options.member', message: parsed.problem }
}

const deadbandProblem = (point: PointDefinition): FieldProblem | null => {
  const { deadband, member } = optionsOf(point)
  if (!deadband) return null
  if (!isNumeric(point.type)) return { field: 'options.deadband', message: `A deadband needs numbers; ${point.type} has none.` }
  if (member) return { field: 'options.deadband', message: 'A server knows a deadband for whole values only, not for a member.' }
  if (deadband.kind === 'percent' && deadband.value > 100)
    return { field: 'options.deadband', message: 'Percent of the range is 0 to 100.' }
  return null
}

/** Two tags on one node and member would be the same twice; worth a note, not a refusal. */
const spot = (point: PointDefinition): Spot | null => {
  const { member = '' } = optionsOf(point)
  const address = member === '' ? point.address : `${point.address} ${member}`
  return { place: address, from: 0, to: 1, bit: null, reading: point.type, address }
}

const optionsText = (point: PointDefinition): string => {
  const { member, deadband } = optionsOf(point)
  const band = deadband ? `±${deadband.value}${deadband.kind === 'percent' ? ' %' : ''}` : ''
  return [member, band].filter(Boolean).join(' ')
}

export const opcua: Protocol = {
  kind: 'opcua',
  title: 'OPC UA',
  subtitle: 'Controllers and machines with a server of their own, other gateways',
  capabilities: { browse: true, read: true, watch: true, write: true, publish: false, messages: false, tap: true },
  frames: uaFrames,
  goal: (settings) => {
    const { address, awaits } = settings as OpcuaSettings
    if (awaits) return null
    const parsed = parseEndpoint(address)
    return parsed.ok ? { speaks: 'OPC UA', host: parsed.address.host, port: parsed.address.port, carries: 'tcp', usualPort: 4840 } : null
  },
  place: (settings) => {
    const { address, awaits } = settings as OpcuaSettings
    if (awaits) return awaitedText(awaits)
    const parsed = parseEndpoint(address)
    return parsed.ok ? endpointText(parsed.address) : address
  },
  interval: (settings) => (settings as OpcuaSettings).reading.publishing,
  describe,
  isPassing: isNumbered,
  problems,
  spot,
  load: (points, settings) => opcuaLoad(points, settings as OpcuaSettings),
  next: () => null,
  words: null,
  onUnit: () => null,
  shortAddress: (address) => {
    const parsed = parseNodeAddress(address)
    return parsed.ok ? `${parsed.address.kind}=${parsed.address.identifier}` : address
  },
  reference: (settings) => opcuaReference(settings as OpcuaSettings),
  optionsText,
  leanOptions: (options) => options,
  whyNotKept: (before, after) => whyNotKept(before as OpcuaSettings, after as OpcuaSettings),
  columns: opcuaColumns,
  optionsFor: (type, options) => {
    const { deadband, ...rest } = options as OpcuaPointOptions
    return deadband && isNumeric(type) ? { ...rest, deadband } : rest
  },
}
