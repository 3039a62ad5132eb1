import {
  AttributeIds,
  BrowseDirection,
  NodeClass,
  promoteOpaqueStructure,
  type ClientSession,
  type DataType as UaType,
  type NodeId,
  type ReferenceDescription,
  type DTStructureDefinition,
} from 'node-opcua'
import { fault, type Fault } from '#core/faults/catalogue'
import { follow, parseMember } from '#core/opcua/member'
import { parseNodeAddress, withIndex, withUri } from '#core/opcua/nodeId'
import { quality, qualityName, statusWords } from '#core/tags/quality'
import { elementOf, isArrayType, type DataType } from '#core/tags/types'
import { namesFrom, type ValueName } from '#core/tags/valueNames'
import type { BrowsedNode, Children, Place } from '#shared/browse'
import { typeFromUa } from '../../opcua/variants'
import { stateOf, stateProperties, statesIn } from './meanings'
import { propertiesOf } from './properties'
import { memberText } from './origin'
import { LookingFault } from '../looking'
import { isBrowsed, statusOf, type Browsed, type Services } from './services'

const objectsFolder = 'i=85'
const hierarchical = 'i=33'
const hasProperty = 'ns=0;i=46'
const referencesPerPage = 2000
/** More children than this are not fetched: nobody scrolls through them; search finds them. */
const mostChildren = 20_000
const mostElements = 1000

export interface MemberType {
  type: DataType
  typeName: string
  /** The data type's node, where it is a structure with members of its own. */
  structure: NodeId | null
}

/** Looks around in a server's address space over one session. What it learns of types it keeps. */
export class Explorer {
  private builtIn = new Map<string, Promise<UaType>>()
  private fields = new Map<string, Promise<DTStructureDefinition | null>>()

  constructor(
    readonly services: Services,
    readonly namespaces: readonly string[],
  ) {}

  get session(): ClientSession {
    return this.services.session
  }

  /** The node as this server has it now; undefined where it has no such namespace. Empty: where browsing starts. */
  nodeId(address: string): string | undefined {
    if (address === '') return objectsFolder
    const parsed = parseNodeAddress(address)
    return parsed.ok ? (withIndex(parsed.address, this.namespaces) ?? undefined) : undefined
  }

  address(nodeId: { toString(): string }): string {
    return withUri(nodeId.toString(), this.namespaces)
  }

  /** Rejects with a fault where the server does not have the place, or does not show what is inside. */
  async children(place: Place): Promise<Children> {
    const nodeId = this.nodeId(place.address)
    if (nodeId === undefined) throw new LookingFault(noNamespace(place.address))
    if (place.member !== '') return { nodes: await this.members(place, nodeId), more: false }
    const [browsed] = await this.services.browse([this.request(nodeId)], mostChildren)
    if (!isBrowsed(browsed!)) throw new LookingFault(notShown(place.address, browsed!.status))
    const nodes = plantFirst(this.nodesOf(browsed!))
    const own = place.address === '' ? [] : await this.members(place, nodeId)
    return { nodes: [...own, ...nodes], more: browsed!.more }
  }

  /** Children of several nodes at once, in their order; for crawling. `status` tells of those that were not given. */
  async childrenOfMany(addresses: readonly string[]): Promise<{ nodes: BrowsedNode[]; status: number }[]> {
    const requests = addresses.map((address) => this.request(this.nodeId(address) ?? nothingThere))
    const browsed = await this.services.browse(requests, mostChildren)
    return browsed.map((result) => ({ nodes: this.nodesOf(result), status: result.status }))
  }

  /** How many children, up to a page full of them; null where the server does not tell. */
  async count(nodeIds: readonly string[]): Promise<({ children: number; more: boolean } | null)[]> {
    const browsed = await this.services.browse(
      nodeIds.map((nodeId) => this.request(nodeId)),
      1,
    )
    return browsed.map((result) => (isBrowsed(result) ? { children: result.references.filter(isShown).length, more: result.more } : null))
  }

  private nodesOf({ references }: Browsed): BrowsedNode[] {
    return references.filter(isShown).map((reference) => this.nodeOf(reference))
  }

  /** The built-in type behind a data type: enumerations and the server's own are reduced to what is on the wire. */
  builtInType(dataType: NodeId): Promise<UaType> {
    const key = dataType.toString()
    const known = this.builtIn.get(key)
    if (known) return known
    const asked = this.climbTypes(dataType)
    this.builtIn.set(key, asked)
    asked.catch(() => this.builtIn.delete(key))
    return asked
  }

  /** Up the tree of data types to one of the built-in ones (OPC 10000-6, 5.1.2); enumerations are Int32 on the wire. */
  private async climbTypes(dataType: NodeId): Promise<UaType> {
    let at = dataType
    for (let step = 0; step < deepestType; step++) {
      if (at.namespace === 0 && typeof at.value === 'number') {
        if (at.value >= 1 && at.value <= lastBuiltIn) return at.value as UaType
        if (at.value === enumeration) return int32
      }
      const { references } = await this.session.browse({
        nodeId: at,
        browseDirection: BrowseDirection.Inverse,
        referenceTypeId: 'i=45',
        includeSubtypes: false,
        resultMask: 0,
      })
      const parent = references?.[0]?.nodeId
      if (!parent) throw new Error(`no built-in type above ${dataType.toString()}`)
      at = parent
    }
    throw new Error(`no end of types above ${dataType.toString()}`)
  }

  /** The type at the end of the way into a value, from the definitions that the server gives. */
  async memberType(dataType: NodeId, rank: number, member: string): Promise<MemberType | null> {
    const parsed = parseMember(member)
    if (!parsed.ok) return null
    let at = await this.typeOf(dataType, rank)
    for (const step of parsed.steps) {
      if (typeof step === 'number') {
        if (!isArrayType(at.type)) return null
        at = { ...at, type: elementOf(at.type) }
        continue
      }
      const field = at.structure && (await this.definition(at.structure))?.fields?.find(({ name }) => name === step)
      if (!field) return null
      at = await this.typeOf(field.dataType, field.valueRank)
    }
    return at
  }

  async typeOf(dataType: NodeId, rank: number): Promise<MemberType> {
    const builtIn = await this.builtInType(dataType).catch(() => null)
    const isStructure = builtIn === extensionObject
    return {
      type: typeFromUa(builtIn ?? string, rank),
      typeName: await this.typeName(dataType),
      structure: isStructure && (await this.definition(dataType))?.fields ? dataType : null,
    }
  }

  private names = new Map<string, Promise<string>>()

  private typeName(dataType: NodeId): Promise<string> {
    const key = dataType.toString()
    const known = this.names.get(key)
    if (known) return known
    const asked = this.session
      .read({ nodeId: dataType, attributeId: AttributeIds.BrowseName })
      .then(({ value }) => (value.value as { name?: string } | null)?.name ?? key)
      .catch(() => key)
    this.names.set(key, asked)
    return asked
  }

  private definition(dataType: NodeId): Promise<DTStructureDefinition | null> {
    const key = dataType.toString()
    const known = this.fields.get(key)
    if (known) return known
    const asked = this.session
      .read({ nodeId: dataType, attributeId: AttributeIds.DataTypeDefinition })
      .then(({ value, statusCode }) => (statusCode.isGood() ? (value.value as DTStructureDefinition | null) : null))
      .catch(() => null)
    this.fields.set(key, asked)
    return asked
  }

  private stateNames = new Map<string, Promise<readonly ValueName[]>>()

  /** What the values of a data type are called (OPC 10000-3, 8.40); empty: it is no enumeration, or says nothing. */
  states = (dataType: NodeId): Promise<readonly ValueName[]> => {
    const key = dataType.toString()
    const known = this.stateNames.get(key)
    if (known) return known
    const asked = this.enumeration(dataType).catch(() => [])
    this.stateNames.set(key, asked)
    return asked
  }

  private async enumeration(dataType: NodeId): Promise<readonly ValueName[]> {
    const isBuiltIn = dataType.namespace === 0 && Number(dataType.value) <= lastBuiltIn
    if (isBuiltIn || (await this.builtInType(dataType)) !== int32) return []
    const names = namesFrom(((await this.definition(dataType))?.fields ?? []).flatMap(stateOf))
    if (names.length > 0) return names
    const [told] = await propertiesOf(this.services, [dataType.toString()], stateProperties)
    return statesIn(told!)
  }

  /** Members of a structure and elements of an array, as the value has them now. */
  private async members(place: Place, nodeId: string): Promise<BrowsedNode[]> {
    const dataValue = await this.session.read({ nodeId, attributeId: AttributeIds.Value })
    if (!dataValue.value || dataValue.statusCode.value >>> 30 === 2) return []
    await promoteOpaqueStructure(this.session as never, [dataValue])
    const parsed = parseMember(place.member)
    const inside: unknown = parsed.ok ? follow(dataValue.value.value, parsed.steps) : undefined
    const steps = parsed.ok ? parsed.steps : []
    return partsOf(inside).map(({ step, opens }) => ({
      address: place.address,
      member: memberText([...steps, step]),
      name: typeof step === 'number' ? `[${step}]` : step,
      kind: 'member',
      opens,
    }))
  }

  private request(nodeId: string) {
    return {
      nodeId,
      browseDirection: BrowseDirection.Forward,
      referenceTypeId: hierarchical,
      includeSubtypes: true,
      nodeClassMask: NodeClass.Object | NodeClass.Variable | NodeClass.Method,
      resultMask: 0b111111,
      requestedMaxReferencesPerNode: referencesPerPage,
    }
  }

  private nodeOf(reference: ReferenceDescription): BrowsedNode {
    const { nodeId, nodeClass, displayName, browseName } = reference
    const kind = nodeClass === NodeClass.Variable ? 'variable' : nodeClass === NodeClass.Method ? 'method' : 'object'
    return {
      address: this.address(nodeId),
      member: '',
      name: displayName.text || browseName.name || nodeId.toString(),
      kind,
      opens: kind !== 'method',
    }
  }
}

/** A NodeId that no server has: asked for it, each says so. */
const nothingThere = 'i=0'

/** What the server refused while somebody looked around, in the standard’s words; null: it refused nothing. */
export const lookingFault = (error: Error): Fault | null => {
  const status = statusOf(error)
  const name = status === null ? '' : qualityName(status)
  return name ? fault('opcua.refused', { what: 'show what it has', status: name, words: statusWords(name) }, name) : null
}

const noNamespace = (address: string) => {
  const parsed = parseNodeAddress(address)
  return fault('opcua.no-namespace', {
    uri: (parsed.ok ? (parsed.address.namespace ?? `number ${parsed.address.index}`) : address) || address,
  })
}

const notShown = (address: string, status: number) => {
  const name = qualityName(status)
  if (status === quality.BadNodeIdUnknown) return fault('opcua.no-node', { node: address, status: name }, name)
  return fault('opcua.refused', { what: `show what is inside ${address || 'its objects'}`, status: name, words: statusWords(name) }, name)
}

const extensionObject = 22 as UaType
const string = 12 as UaType
const int32 = 6 as UaType
const enumeration = 29
const lastBuiltIn = 25
const deepestType = 20

/** What describes a value (its unit, its range) is shown with it, not beside it. */
const isShown = ({ referenceTypeId, nodeClass }: ReferenceDescription) =>
  nodeClass !== NodeClass.Variable || referenceTypeId.toString() !== hasProperty

/** What every server has of the standard’s own comes after what this one is there for. */
const plantFirst = (nodes: BrowsedNode[]) => [...nodes.filter(isOfPlant), ...nodes.filter((node) => !isOfPlant(node))]
const isOfPlant = ({ address }: BrowsedNode) => address.startsWith('nsu=')

const notMembers = new Set(['schema', 'constructor'])

/** Members of a structure, elements of an array; nothing for a plain value. */
export const partsOf = (value: unknown): { step: string | number; opens: boolean }[] => {
  if (value === null || typeof value !== 'object' || value instanceof Date || Buffer.isBuffer(value)) return []
  if (Array.isArray(value) || ArrayBuffer.isView(value)) {
    const elements = Array.from(value as ArrayLike<unknown>).slice(0, mostElements)
    return elements.map((element, index) => ({ step: index, opens: hasParts(element) }))
  }
  return Object.entries(value)
    .filter(([name, part]) => !notMembers.has(name) && !name.startsWith('_') && typeof part !== 'function')
    .map(([name, part]) => ({ step: name.charAt(0).toUpperCase() + name.slice(1), opens: hasParts(part) }))
}

const hasParts = (value: unknown): boolean =>
  value !== null && typeof value === 'object' && !(value instanceof Date) && !Buffer.isBuffer(value)
