import { NodeId, NodeIdType, type AddressSpace, type Namespace, type UAObjectType, type UAReferenceType } from 'node-opcua'
import { typeOfProperty } from '#core/equipment/made'
import type { Model } from '#core/equipment/model'
import type { ClassDraft, Property } from '#core/equipment/settings'
import { uaTypeOf } from '../../opcua/variants'
import { definitionOf } from './meaning'

export const equipmentNamespace = 'urn:keen-conduit:equipment'

/** What a class looks like from outside, with all that it is made from. */
export const typeSignature = (model: Model, name: string): string =>
  JSON.stringify(
    model
      .lineOf(name)
      .map(({ name: called, description, properties }) => [
        called,
        description,
        properties.map((property) => [property.name, property.title, property.unit, typeOfProperty(property, model.propertiesOf(name))]),
      ]),
  )

/**
 * Classes of equipment as object types: `nsu=urn:keen-conduit:equipment;s=/type/<class>` (no path begins so), each below the one that it is made from,
 * with what its equipment has as mandatory components (OPC 10000-3, 6.3 and 6.4); relations as reference types.
 */
export class EquipmentTypes {
  readonly namespace: Namespace
  private types = new Map<string, { signature: string; type: UAObjectType }>()
  private relations = new Map<string, UAReferenceType>()

  constructor(
    private addressSpace: AddressSpace,
    /** Names of components are those of the tags that equipment has for them. */
    private tagsIndex: number,
    private tell: (problem: string) => void,
  ) {
    this.namespace = addressSpace.registerNamespace(equipmentNamespace)
  }

  /** Removes what is gone or another one, those made from others first. Nothing may be of such a type any more. */
  *remove(model: Model): Generator<void> {
    for (const [name, { signature, type }] of [...this.types].reverse()) {
      if (model.classes.has(name) && typeSignature(model, name) === signature) continue
      this.addressSpace.deleteNode(type)
      this.types.delete(name)
      yield
    }
  }

  *make(model: Model): Generator<void> {
    for (const name of model.classes.keys())
      for (const one of model.lineOf(name).reverse()) {
        if (this.types.has(one.name)) continue
        this.tryMake(one, model)
        yield
      }
  }

  /** Of no class: equipment that only holds others together. */
  of(name: string): UAObjectType | string {
    return this.types.get(name)?.type ?? 'BaseObjectType'
  }

  relation(kind: string): UAReferenceType {
    const known = this.relations.get(kind)
    if (known) return known
    const made = this.namespace.addReferenceType({
      browseName: kind,
      nodeId: this.nodeId(`/relation/${kind}`),
      subtypeOf: 'NonHierarchicalReferences',
      isAbstract: false,
      // the standard wants another name for the way back, which nobody told us (OPC 10000-3, 5.3.1)
      inverseName: `${kind} (from the other side)`,
    } as never)
    this.relations.set(kind, made)
    return made
  }

  nodeId(id: string) {
    return new NodeId(NodeIdType.STRING, id, this.namespace.index)
  }

  /** Equipment of one that cannot be shown stands there without a type of its own. */
  private tryMake(one: ClassDraft, model: Model) {
    try {
      this.types.set(one.name, { signature: typeSignature(model, one.name), type: this.made(one, model) })
    } catch (error) {
      this.tell(`The class ${one.name} cannot be shown to clients: ${(error as Error).message}`)
    }
  }

  private made({ name, parent, description, properties }: ClassDraft, model: Model): UAObjectType {
    const type = this.namespace.addObjectType({
      ...{ browseName: name, nodeId: this.nodeId(`/type/${name}`), subtypeOf: this.of(parent) as never },
      description: description || undefined,
    })
    const all = model.propertiesOf(name)
    const inherited = new Set(model.propertiesOf(parent).map((one) => one.name))
    for (const property of properties) if (!inherited.has(property.name)) this.declare(type, name, property, all)
    return type
  }

  private declare(type: UAObjectType, of: string, property: Property, all: readonly Property[]) {
    const { name, title, unit, description } = property
    const scalar = typeOfProperty(property, all)
    this.namespace.addVariable({
      componentOf: type,
      nodeId: this.nodeId(`/type/${of}/${name}`),
      browseName: { name, namespaceIndex: this.tagsIndex },
      description: description || title || undefined,
      dataType: uaTypeOf(scalar),
      typeDefinition: definitionOf({ type: scalar, unit, range: null, names: [] }),
      modellingRule: 'Mandatory',
    })
  }
}
