import {
  AttributeIds,
  BrowseDirection,
  promoteOpaqueStructure,
  type DataValue,
  type EUInformation,
  type LocalizedText,
  type NodeId,
  type Range,
} from 'node-opcua'
import { follow, parseMember } from '#core/opcua/member'
import { quality } from '#core/tags/quality'
import { valueText } from '#core/text/number'
import type { Place, PlaceDetails } from '#shared/browse'
import { toWire } from '#shared/status'
import { valueOf } from '../../opcua/variants'
import type { Explorer } from './browse'
import { chunks } from './watching'

const attributes = [
  AttributeIds.NodeClass,
  AttributeIds.Value,
  AttributeIds.DataType,
  AttributeIds.ValueRank,
  AttributeIds.UserAccessLevel,
  AttributeIds.Description,
  AttributeIds.MinimumSamplingInterval,
] as const

const variableClass = 2
const currentRead = 1
const currentWrite = 2
/** Servers limit how much one request may ask; this is what nearly all take. */
const readsPerCall = 700

/** Type, access, unit, range and present value of many places, in their order. */
export const detailsOf = async (explorer: Explorer, places: readonly Place[], withCounts: boolean): Promise<PlaceDetails[]> => {
  const found: PlaceDetails[] = []
  for (const part of chunks(places, Math.floor(readsPerCall / attributes.length)))
    found.push(...(await detailsOfPart(explorer, part, withCounts)))
  return found
}

const detailsOfPart = async (explorer: Explorer, places: readonly Place[], withCounts: boolean) => {
  const { session } = explorer
  const nodeIds = places.map(({ address }) => explorer.nodeId(address) ?? 'i=0')
  const dataValues = await session.read(nodeIds.flatMap((nodeId) => attributes.map((attributeId) => ({ nodeId, attributeId }))))
  const rows = places.map((_, i) => dataValues.slice(i * attributes.length, (i + 1) * attributes.length))
  await promoteOpaqueStructure(
    session as never,
    dataValues.filter(({ value }) => value),
  )
  const [meanings, counts] = await Promise.all([
    meaningsOf(explorer, nodeIds, rows),
    withCounts ? explorer.count(nodeIds) : Promise.resolve(nodeIds.map(() => null)),
  ])
  return Promise.all(
    places.map(async (place, i) => ({
      ...(await describe(explorer, place, rows[i]!)),
      ...(place.member === '' ? meanings[i]! : noMeaning),
      children: place.member === '' ? (counts[i]?.children ?? null) : null,
      childrenMore: counts[i]?.more ?? false,
    })),
  )
}

type Described = Omit<PlaceDetails, 'unit' | 'range' | 'children' | 'childrenMore'>

const describe = async (explorer: Explorer, place: Place, row: DataValue[]): Promise<Described> => {
  const [nodeClass, value, dataType, rank, access, description, sampling] = row as [
    DataValue,
    DataValue,
    DataValue,
    DataValue,
    DataValue,
    DataValue,
    DataValue,
  ]
  const base = { ...place, description: (description.value?.value as LocalizedText | null)?.text ?? '' }
  if (nodeClass.value?.value !== variableClass) return { ...base, ...noValue }
  const level = Number(access.value?.value ?? 0)
  const type = await explorer.memberType(dataType.value.value as NodeId, Number(rank.value?.value ?? -1), place.member)
  const shown = shownValue(value, place.member)
  return {
    ...base,
    type: type?.type ?? (shown.value === null ? null : typeOfPlain(shown.value)),
    typeName: type?.typeName ?? '',
    access: level & currentWrite ? 'readwrite' : level & currentRead ? 'read' : 'none',
    value: toWire(shown.value ?? undefined),
    text: shown.text,
    quality: value.statusCode.value,
    sourceTime: value.sourceTimestamp?.getTime() ?? 0,
    samplesEvery: typeof sampling.value?.value === 'number' && sampling.value.value >= 0 ? sampling.value.value : null,
  }
}

const noValue = {
  type: null,
  typeName: '',
  access: 'none',
  value: null,
  text: '',
  quality: quality.Good,
  sourceTime: 0,
  samplesEvery: null,
} as const satisfies Partial<Described>

const typeOfPlain = (value: unknown) => (typeof value === 'boolean' ? 'bool' : typeof value === 'number' ? 'float64' : 'string')

const shownValue = (dataValue: DataValue, member: string) => {
  if (!dataValue.value) return { value: null, text: '' }
  if (member === '') {
    const value = valueOf(dataValue.value)
    return { value, text: valueText(value) }
  }
  const parsed = parseMember(member)
  const inside: unknown = parsed.ok ? follow(dataValue.value.value, parsed.steps) : undefined
  if (typeof inside === 'number' || typeof inside === 'boolean' || typeof inside === 'string')
    return { value: inside, text: valueText(inside) }
  return { value: null, text: inside === undefined || inside === null ? '' : 'structure' }
}

type Meaning = Pick<PlaceDetails, 'unit' | 'range'>
const noMeaning: Meaning = { unit: '', range: null }

/** EngineeringUnits and EURange of those that are variables (OPC 10000-8, 5.6.3). */
const meaningsOf = async (explorer: Explorer, nodeIds: readonly string[], rows: DataValue[][]): Promise<Meaning[]> => {
  const { session } = explorer
  const meanings: Meaning[] = nodeIds.map(() => ({ ...noMeaning }))
  const asked = nodeIds.map((_, i) => i).filter((i) => rows[i]![0]!.value?.value === variableClass)
  if (asked.length === 0) return meanings
  const properties = await session.browse(
    asked.map((i) => ({
      nodeId: nodeIds[i]!,
      browseDirection: BrowseDirection.Forward,
      referenceTypeId: 'i=46',
      includeSubtypes: false,
      resultMask: 0b1000,
    })),
  )
  const wanted = properties.flatMap(({ references }, k) =>
    (references ?? [])
      .filter(({ browseName }) => browseName.name === 'EngineeringUnits' || browseName.name === 'EURange')
      .map(({ nodeId, browseName }) => ({ nodeId, name: browseName.name!, of: asked[k]! })),
  )
  if (wanted.length === 0) return meanings
  const values = await session.read(wanted.map(({ nodeId }) => ({ nodeId, attributeId: AttributeIds.Value })))
  for (const [k, { name, of }] of wanted.entries()) {
    const value: unknown = values[k]!.value?.value
    if (!value) continue
    if (name === 'EngineeringUnits') meanings[of]!.unit = (value as EUInformation).displayName?.text ?? ''
    else meanings[of]!.range = { low: (value as Range).low, high: (value as Range).high }
  }
  return meanings
}
