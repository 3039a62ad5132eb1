import { Writer } from './bytes'
import { types, type TypeName, type WireDataValue, type WireVariant } from './values'
import { status } from './status'

/** A node of the plain server; its NodeId by the URI of its namespace, so that indexes may move. */
export interface PlainNode {
  /** Index into `namespaces` as they were at first, and the name after `s=`; or a whole `i=` of the standard. */
  id: string
  name: string
  parent: string
  /** Folder where there is none. */
  variant?: WireVariant
  status?: number
  writable?: boolean
  /** What a write gets instead of being taken. */
  refusesWrites?: number
  /** Taken when written, not given when read. */
  writeOnly?: boolean
}

export const objectClass = 1
export const variableClass = 2
const organizes = 'i=35'

/** Nodes of the standard that clients ask for (OPC 10000-5). */
const serverNode = 'i=2253'
const serverStatus = 'i=2256'
const serverState = 'i=2259'
const namespaceArray = 'i=2255'
const objectsFolder = 'i=85'
const rootFolder = 'i=84'
const running = 0

/** What the server says of how much it takes at once; nothing where it does not say. */
export type ToldLimits = Partial<Record<'read' | 'write' | 'browse' | 'translate' | 'items', number>>
const limitNodes = { read: 'i=11705', write: 'i=11707', browse: 'i=11710', translate: 'i=11712', items: 'i=11714' } as const

export interface Reference {
  type: string
  node: PlainNode
}

/** A small address space, with its namespaces in an order that may change. */
export class PlainSpace {
  private nodes = new Map<string, PlainNode>()
  told: ToldLimits = {}
  /** Called with the node whose value was set. */
  readonly onSet = new Set<(node: PlainNode) => void>()
  private readonly firstOrder: readonly string[]

  /** @param namespaces without the standard's own, in the order of their indexes from 1. */
  constructor(private namespaces: string[]) {
    this.firstOrder = [...namespaces]
    this.add({ id: rootFolder, name: 'Root', parent: '' })
    this.add({ id: objectsFolder, name: 'Objects', parent: rootFolder })
    this.add({ id: serverNode, name: 'Server', parent: objectsFolder })
  }

  add(node: PlainNode) {
    this.nodes.set(node.id, node)
  }

  remove(id: string) {
    this.nodes.delete(id)
  }

  set(id: string, value: WireVariant['value'], code: number = status.Good) {
    const node = this.nodes.get(id)!
    node.variant = { type: node.variant!.type, value }
    node.status = code
    for (const tell of this.onSet) tell(node)
  }

  /** The server numbers its namespaces anew, as some do at every start. */
  move(order: string[]) {
    this.namespaces = order
  }

  /** What the node goes by now. */
  outward(id: string): string {
    const [, index, rest] = /^(?:ns=(\d+);)?(.*)$/s.exec(id)!
    return index === undefined ? rest! : `ns=${this.namespaces.indexOf(this.firstOrder[Number(index) - 1]!) + 1};${rest}`
  }

  /** The node that a client means by this NodeId now. */
  find(nodeId: string): PlainNode | undefined {
    const [, index, rest] = /^(?:ns=(\d+);)?(.*)$/s.exec(nodeId)!
    if (index === undefined) return this.nodes.get(rest!)
    const uri = this.namespaces[Number(index) - 1]
    return uri === undefined ? undefined : this.nodes.get(`ns=${this.firstOrder.indexOf(uri) + 1};${rest}`)
  }

  children(id: string): Reference[] {
    return [...this.nodes.values()].filter(({ parent }) => parent === id).map((node) => ({ type: organizes, node }))
  }

  read(nodeId: string, attribute: number): WireDataValue {
    const own = attribute === 13 ? this.ofTheServer(nodeId) : null
    if (own) return { variant: own, status: status.Good }
    const node = this.find(nodeId)
    if (!node) return { variant: null, status: status.BadNodeIdUnknown }
    if (attribute === 13) return valueOf(node)
    const variant = attributeOf(node, attribute)
    return { variant, status: variant ? status.Good : status.BadAttributeIdInvalid }
  }

  private ofTheServer(nodeId: string): WireVariant | null {
    if (nodeId === namespaceArray) return { type: 'String', value: ['http://opcfoundation.org/UA/', ...this.namespaces] }
    if (nodeId === serverState) return { type: 'Int32', value: running }
    if (nodeId === serverStatus) return { type: 'Structure', value: { encoding: 'i=864', body: statusStructure() } }
    const limit = (Object.keys(limitNodes) as (keyof ToldLimits)[]).find((name) => limitNodes[name] === nodeId)
    const most = limit && this.told[limit]
    return most === undefined ? null : { type: 'UInt32', value: most }
  }
}

const valueOf = ({ variant, status: code = status.Good, writeOnly }: PlainNode): WireDataValue => {
  if (writeOnly) return { variant: null, status: status.BadNotReadable }
  return variant ? { variant, status: code } : { variant: null, status: status.BadAttributeIdInvalid }
}

const attributeOf = ({ name, variant, writable, writeOnly }: PlainNode, attribute: number): WireVariant | null => {
  if (attribute === 2) return { type: 'Int32', value: variant ? variableClass : objectClass }
  if (attribute === 4 || attribute === 5) return { type: 'LocalizedText', value: name }
  if (!variant) return null
  if (attribute === 14) return { type: 'NodeId', value: `i=${types[variant.type]}` }
  if (attribute === 15) return { type: 'Int32', value: Array.isArray(variant.value) ? 1 : -1 }
  if (attribute === 17 || attribute === 18) return { type: 'Byte', value: (writeOnly ? 0 : 1) | (writable ? 2 : 0) }
  return null
}

/** ServerStatusDataType (OPC 10000-5, 12.10). */
const statusStructure = () => {
  const writer = new Writer()
    .time(Date.now() - 60_000)
    .time(Date.now())
    .uint32(running)
  writer.string('urn:port:plain').string('Ferry port').string('Plain server').string('1').string('1').time(0)
  return writer.uint32(0).bytes(0).done()
}

export const variable = (
  parent: string,
  name: string,
  type: TypeName,
  value: WireVariant['value'],
  more: Partial<PlainNode> = {},
): PlainNode => ({
  id: `ns=1;s=${name}`,
  name,
  parent,
  variant: { type, value },
  ...more,
})
