import { DataType, PermissionType, type AddressSpace, type UAObject, type UAVariable, Variant } from 'node-opcua'
import { Model, type EquipmentOf } from '#core/equipment/model'
import { folderOf, nameOf } from '#core/tags/path'
import { guardBy } from '../../opcua/internals'
import type { OutletContext } from '../driver'
import { frugally } from './addressSpace'
import { EquipmentTypes, typeSignature } from './equipmentTypes'
import { Slices } from './slices'
import { seenIf, type Permits } from './tagVariable'

interface Around {
  equipment: OutletContext<unknown>['equipment']
  permits: Permits
  /** Whether anything in a folder or below is shown at all. */
  opens(folder: string): boolean
  /** The variable of a tag, where it stands already. */
  variableOf(path: string): UAVariable | null
  tagsIndex: number
  tell(problem: string): void
}

interface Told {
  signature: string
  object: UAObject
  attached: Set<UAVariable>
  relations: Map<string, { to: Told; end(): void }>
  /** Those whose relations lead to it. */
  pointedAtBy: Set<Told>
}

/**
 * Equipment as objects of the types of their classes: `nsu=urn:keen-conduit:equipment;s=<path>` below Objects/Equipment. Their
 * components are the very variables that the tags of their properties are.
 */
export class EquipmentNodes {
  private types: EquipmentTypes
  private told = new Map<string, Told>()
  private top: UAObject | null = null
  private model = new Model([], [])
  private work: Generator<void> | null = null
  private slices: Slices

  constructor(
    private addressSpace: AddressSpace,
    private around: Around,
  ) {
    this.types = new EquipmentTypes(addressSpace, around.tagsIndex, around.tell)
    this.slices = new Slices(() => frugally(this.addressSpace, () => this.step()))
  }

  /** Classes or equipment changed, or what is shown of them. */
  modelChanged() {
    const { classes, equipment } = this.around.equipment()
    this.model = new Model(
      classes,
      [...equipment].filter(({ path }) => this.around.opens(path)),
    )
    this.work = this.bringAbout(this.model)
    this.slices.start()
  }

  /** A tag got its variable. */
  placed(path: string, variable: UAVariable) {
    const told = this.told.get(folderOf(path))
    if (told) this.attach(told, folderOf(path), nameOf(path), variable)
  }

  /** The variable of a tag goes. */
  goes(path: string, variable: UAVariable) {
    const told = this.told.get(folderOf(path))
    if (told?.attached.delete(variable)) detach(told, variable)
  }

  settled() {
    return this.slices.settled()
  }

  close() {
    this.work = null
  }

  private step(): boolean {
    try {
      if (this.work && !this.work.next().done) return true
    } catch (error) {
      this.around.tell(`Equipment cannot be shown to clients: ${(error as Error).message}`)
    }
    this.work = null
    return false
  }

  private *bringAbout(model: Model): Generator<void> {
    const types = new Map([...model.classes.keys()].map((name) => [name, typeSignature(model, name)]))
    const signatures = new Map(
      [...model.byPath].map(([path, one]) => [path, JSON.stringify([types.get(one.class), one.description, model.levelOf(one)])]),
    )
    for (const path of [...this.told.keys()].sort(deepestFirst))
      if (signatures.get(path) !== this.told.get(path)!.signature) {
        this.attempt(path, () => this.remove(path))
        yield
      }
    yield* this.types.remove(model)
    yield* this.types.make(model)
    for (const path of [...signatures.keys()].sort((a, b) => deepestFirst(b, a)))
      if (!this.told.has(path)) {
        this.attempt(path, () => this.make(model.byPath.get(path)!, signatures.get(path)!, model))
        yield
      }
    for (const [path, told] of this.told) {
      this.attempt(path, () => this.relate(told, model.byPath.get(path)!))
      yield
    }
    if (this.told.size === 0) this.dropTop()
  }

  /** One that cannot be shown keeps no other from being shown. */
  private attempt(path: string, work: () => void) {
    try {
      work()
    } catch (error) {
      this.around.tell(`${path} cannot be shown to clients as equipment: ${(error as Error).message}`)
    }
  }

  private make(one: EquipmentOf, signature: string, model: Model) {
    const { path, description } = one
    const home = this.told.get(folderOf(path))?.object ?? this.topFolder()
    const object = this.types.namespace.addObject({
      ...{ browseName: nameOf(path), nodeId: this.types.nodeId(path), organizedBy: home },
      ...{ typeDefinition: this.types.of(one.class) as never, description: description || undefined },
      ...seenIf((context) => this.around.permits.opens(context, path)),
    })
    // of ISA-95, by the name that its companion to the standard has for it (OPC 30020)
    const level = this.types.namespace.addVariable({
      ...{ propertyOf: object, browseName: 'EquipmentLevel', nodeId: this.types.nodeId(`/level/${path}`), dataType: 'String' },
      ...{ accessLevel: 'CurrentRead', value: new Variant({ dataType: DataType.String, value: model.levelOf(one) }) },
    })
    guardBy(level, (context, permission) => permission !== PermissionType.Write && this.around.permits.opens(context, path))
    const told: Told = { signature, object, attached: new Set<UAVariable>(), relations: new Map(), pointedAtBy: new Set<Told>() }
    this.told.set(path, told)
    for (const child of model.children(path)) {
      const there = this.told.get(child.path)
      if (there) object.addReference({ referenceType: 'Organizes', nodeId: there.object.nodeId })
    }
    for (const { name } of model.propertiesOf(one.class)) {
      const variable = this.around.variableOf(`${path}/${name}`)
      if (variable) this.attach(told, path, name, variable)
    }
  }

  private attach(told: Told, path: string, name: string, variable: UAVariable) {
    const one = this.model.byPath.get(path)
    if (!one || told.attached.has(variable) || !this.model.propertiesOf(one.class).some((property) => property.name === name)) return
    told.object.addReference({ referenceType: 'HasComponent', nodeId: variable.nodeId })
    told.attached.add(variable)
  }

  /** Relations as they are by now. */
  private relate(told: Told, { relations }: EquipmentOf) {
    const wanted = new Map(relations.filter(({ to }) => this.told.has(to)).map((one) => [`${one.kind} ${one.to}`, one]))
    const gone = [...told.relations].filter(([key]) => !wanted.has(key))
    const fresh = [...wanted].filter(([key]) => !told.relations.has(key))
    for (const [key, { end }] of gone) {
      end()
      told.relations.delete(key)
    }
    for (const [key, { kind, to }] of fresh) {
      const other = this.told.get(to)!
      const reference = { referenceType: this.types.relation(kind).nodeId, nodeId: other.object.nodeId }
      told.object.addReference(reference)
      told.relations.set(key, { to: other, end: () => told.object.removeReference(reference) })
      other.pointedAtBy.add(told)
    }
  }

  /** The package removes with a node whatever hangs on it: that is let go before. */
  private remove(path: string) {
    const told = this.told.get(path)!
    this.told.delete(path)
    for (const variable of told.attached) detach(told, variable)
    for (const child of told.object.findReferencesAsObject('Organizes', true))
      told.object.removeReference({ referenceType: 'Organizes', nodeId: child.nodeId })
    for (const { end } of told.relations.values()) end()
    for (const other of told.pointedAtBy)
      for (const [key, { to, end }] of other.relations)
        if (to === told) {
          end()
          other.relations.delete(key)
        }
    this.addressSpace.deleteNode(told.object)
  }

  private topFolder(): UAObject {
    return (this.top ??= this.types.namespace.addFolder(this.addressSpace.rootFolder.objects, {
      browseName: 'Equipment',
      nodeId: this.types.nodeId('/'),
    }))
  }

  private dropTop() {
    if (this.top) this.addressSpace.deleteNode(this.top)
    this.top = null
  }
}

const detach = ({ object }: Told, variable: UAVariable) =>
  object.removeReference({ referenceType: 'HasComponent', nodeId: variable.nodeId })

const depth = (path: string) => path.split('/').length
const deepestFirst = (a: string, b: string) => depth(b) - depth(a)
