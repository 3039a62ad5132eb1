import {
  DataType as UaType,
  AttributeIds,
  promoteOpaqueStructure,
  type DataValue,
  type LocalizedText,
  type NodeId,
  type Variant,
  VariantArrayType,
} from 'node-opcua'
import { parted } from '#core/lists/parted'
import { follow, parseMember } from '#core/opcua/member'
import { quality } from '#core/tags/quality'
import type { DataType, TagValue } from '#core/tags/types'
import { valueText } from '#core/text/number'
import type { Place, PlaceDetails } from '#shared/browse'
import { toWire } from '#shared/values'
import { inParallel } from '#pacing/inParallel'
import { valueOf } from '../../opcua/variants'
import { partsOf, type Explorer } from './browse'
import { meaningsOf, noMeaning, type Meaning } from './meanings'

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
/** While the server works at one request, the answer to another is taken apart here. */
export const requestsAtOnce = 3

/** Type, access, unit, range and present value of many places, in their order. */
export const detailsOf = async (explorer: Explorer, places: readonly Place[], withCounts: boolean): Promise<PlaceDetails[]> => {
  const parts = parted(places, Math.floor(readsPerCall / attributes.length))
  return (await inParallel(parts, requestsAtOnce, (part) => detailsOfPart(explorer, part, withCounts))).flat()
}

const detailsOfPart = async (explorer: Explorer, places: readonly Place[], withCounts: boolean) => {
  const { services, session } = explorer
  const nodeIds = places.map(({ address }) => explorer.nodeId(address) ?? 'i=0')
  const dataValues = await services.read(nodeIds.flatMap((nodeId) => attributes.map((attributeId) => ({ nodeId, attributeId }))))
  const rows = places.map((_, i) => dataValues.slice(i * attributes.length, (i + 1) * attributes.length))
  await promoteOpaqueStructure(
    session as never,
    dataValues.filter(({ value }) => value),
  )
  const [meanings, counts] = await Promise.all([
    meaningsOf(explorer, variablesIn(nodeIds, rows)),
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

const variablesIn = (nodeIds: readonly string[], rows: DataValue[][]) =>
  nodeIds.map((nodeId, i) => {
    const [nodeClass, , dataType, rank] = rows[i]!.map(({ value }) => value?.value as unknown)
    return nodeClass === variableClass ? { nodeId, dataType: dataType as NodeId | null, isList: Number(rank ?? -1) >= 0 } : null
  })

type Described = Omit<PlaceDetails, keyof Meaning | 'children' | 'childrenMore'>

const describe = async (explorer: Explorer, { address, member }: Place, row: DataValue[]): Promise<Described> => {
  const [nodeClass, , dataType, rank, access, description, sampling] = row.map((dataValue) => dataValue.value?.value as unknown)
  const base = { address, member, description: (description as LocalizedText | null)?.text ?? '' }
  if (nodeClass !== variableClass) return { ...base, ...noValue }
  const type = await explorer.memberType(dataType as NodeId, Number(rank ?? -1), member)
  const inside = insideOf(row[1]!, member)
  const known = type?.type ?? typeOfPlain(inside.value)
  return {
    ...base,
    type: known,
    typeName: type?.typeName ?? '',
    access: accessOf(Number(access ?? 0)),
    value: toWire(inside.value ?? undefined),
    text: textOf(inside, known),
    hasParts: inside.hasParts,
    quality: row[1]!.statusCode.value,
    sourceTime: timeOf(row[1]!),
    samplesEvery: typeof sampling === 'number' && sampling >= 0 ? sampling : null,
  }
}

const timeOf = ({ sourceTimestamp }: DataValue) => sourceTimestamp?.getTime() ?? 0

const textOf = ({ hasParts, parts, value }: Inside, type: DataType | null) => {
  if (!hasParts) return valueText(value, type ?? undefined)
  return parts === null ? 'structure' : `array ${parts}`
}

const accessOf = (level: number) => (level & currentWrite ? 'readwrite' : level & currentRead ? 'read' : 'none')

const noValue = {
  type: null,
  typeName: '',
  access: 'none',
  value: null,
  text: '',
  hasParts: false,
  quality: quality.Good,
  sourceTime: 0,
  samplesEvery: null,
} as const satisfies Partial<Described>

const typeOfPlain = (value: TagValue | null): DataType | null => {
  if (value === null) return null
  return typeof value === 'boolean' ? 'bool' : typeof value === 'number' ? 'float64' : 'string'
}

interface Inside {
  value: TagValue | null
  hasParts: boolean
  /** Elements of an array, or null for a structure. */
  parts: number | null
}

/** What lies at the end of the way into a value. */
const insideOf = ({ value: variant }: DataValue, member: string): Inside => {
  if (!variant) return { value: null, hasParts: false, parts: null }
  const parsed = parseMember(member)
  const inside: unknown = parsed.ok ? follow(variant.value, parsed.steps) : undefined
  const parts = partsOf(inside)
  const shape = { hasParts: parts.length > 0 && !isWidePair(variant, member), parts: isList(inside) ? inside.length : null }
  if (member === '') return { value: valueOf(variant), ...shape }
  return { value: typeof inside === 'number' || typeof inside === 'boolean' || typeof inside === 'string' ? inside : null, ...shape }
}

const isList = (value: unknown): value is ArrayLike<unknown> => Array.isArray(value) || ArrayBuffer.isView(value)

/** 64-bit integers come as two halves, which are no parts of theirs. */
const isWidePair = ({ dataType, arrayType }: Variant, member: string) =>
  member === '' && arrayType === VariantArrayType.Scalar && dataType !== UaType.ExtensionObject
