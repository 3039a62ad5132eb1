import {
  AccessLevelFlag,
  type AddressSpace,
  type ISessionContext,
  DataValue,
  type Namespace,
  makeEUInformation,
  NodeId,
  NodeIdType,
  type StatusCode,
  StatusCodes,
  type UAObject,
  type UAVariable,
} from 'node-opcua'
import { folderOf, nameOf } from '#core/tags/path'
import { isArrayType, type TagValue } from '#core/tags/types'
import { unitNames } from '#core/tags/units'
import type { WriteOutcome } from '../../links/driver'
import type { Handle, TagTable } from '../../table/tagTable'
import type { OutletTag } from '../driver'
import { dataValueOf, statusCodeOf, uaTypeOf, valueForType } from '../../opcua/variants'

export const tagNamespace = 'urn:keen-conduit:tags'

interface Served {
  tag: OutletTag
  variable: UAVariable
  /** False once the tag is gone: its handle may already belong to another. */
  alive: boolean
}

/** Nodes cost half a millisecond each; after this long, others get their turn. */
const sliceMs = 8

/** Built by a getter on demand and kept while nothing changes: most tags are looked at by nobody. */
type Snapshot = { dataValue: DataValue; sourceTime: number; seenAt: number }

/**
 * Tags as nodes: folders below Objects, a Variable for each tag, `nsu=urn:keen-conduit:tags;s=<path>`.
 * Values are not pushed into nodes. A node asks the tag table when it is read or sampled, and
 * only nodes with listeners are told of changes.
 */
export class TagNodes {
  private served = new Map<Handle, Served>()
  private waiting = new Map<Handle, OutletTag>()
  private retired = new Map<string, Served>()
  private working = false
  private folders = new Map<string, UAObject>()
  private namespace: Namespace
  /** Changes handed out to whoever listened, sampled or read. */
  changesTold = 0

  constructor(
    private addressSpace: AddressSpace,
    private table: TagTable,
    private write: (handle: Handle, value: TagValue) => Promise<WriteOutcome>,
    private mayWrite: (context: ISessionContext) => boolean,
    private tell: (problem: string) => void,
  ) {
    this.namespace = addressSpace.registerNamespace(tagNamespace)
  }

  /**
   * Takes note of tags that are new, changed or gone. Those that are gone answer no more from now
   * on; nodes are made and removed a few at a time, so that plant traffic never waits for them.
   */
  change(changed: readonly OutletTag[], removed: readonly Handle[]) {
    for (const handle of removed) this.retire(handle)
    for (const tag of changed) {
      this.retire(tag.handle)
      this.waiting.set(tag.handle, tag)
    }
    void this.work()
  }

  /** Resolves when every node is as it should be. */
  async settled() {
    while (this.working) await nextTurn()
  }

  close() {
    this.waiting.clear()
    this.retired.clear()
  }

  private retire(handle: Handle) {
    this.waiting.delete(handle)
    const found = this.served.get(handle)
    if (!found) return
    found.alive = false
    this.served.delete(handle)
    this.retired.set(found.tag.path, found)
  }

  private async work() {
    if (this.working) return
    this.working = true
    while (this.retired.size + this.waiting.size > 0) {
      const end = performance.now() + sliceMs
      while (performance.now() < end && this.step());
      await nextTurn()
    }
    this.working = false
  }

  /** Removes or makes one node; false when nothing is left to do. */
  private step(): boolean {
    for (const [path, gone] of this.retired) {
      this.bury(path, gone)
      return true
    }
    for (const [handle, tag] of this.waiting) {
      this.waiting.delete(handle)
      this.tryServe(tag)
      return true
    }
    return false
  }

  private tryServe(tag: OutletTag) {
    try {
      this.serve(tag)
    } catch (error) {
      this.tell(`${tag.path} cannot be shown to clients: ${(error as Error).message}`)
    }
  }

  private serve(tag: OutletTag) {
    const served: Served = { tag, variable: this.makeVariable(tag), alive: true }
    this.bind(served)
    this.served.set(tag.handle, served)
  }

  private bury(path: string, gone: Served) {
    this.retired.delete(path)
    this.addressSpace.deleteNode(gone.variable)
    this.dropEmptyFolders(folderOf(path))
  }

  /** Tells listeners about changes. Nodes that are sampled are not told; they ask. */
  announce(handles: readonly Handle[]) {
    for (const handle of handles) {
      const found = this.served.get(handle)
      if (!found || found.variable.listenerCount('value_changed') === 0) continue
      found.variable.emit('value_changed', dataValueOf(this.table, handle, found.tag.type))
      this.changesTold++
    }
  }

  /** Nodes still to be made or removed. */
  get pending() {
    return this.waiting.size + this.retired.size
  }

  private makeVariable(tag: OutletTag): UAVariable {
    const access = AccessLevelFlag.CurrentRead | (tag.writable ? AccessLevelFlag.CurrentWrite : 0)
    const variable = this.namespace.addVariable({
      organizedBy: this.folder(folderOf(tag.path)),
      nodeId: this.nodeId(tag.path),
      browseName: nameOf(tag.path),
      description: tag.description || undefined,
      dataType: uaTypeOf(tag.type),
      valueRank: isArrayType(tag.type) ? 1 : -1,
      typeDefinition: tag.unit ? 'AnalogUnitType' : 'BaseDataVariableType',
      accessLevel: access,
      userAccessLevel: access,
      minimumSamplingInterval: 0,
    })
    if (tag.unit) this.addUnit(variable, tag.unit)
    if (tag.writable) variable.isUserWritable = (context) => this.mayWrite(context)
    return variable
  }

  /** A NodeId object: the text form would take a path with “;” or “=” apart. */
  private nodeId(path: string) {
    return new NodeId(NodeIdType.STRING, path, this.namespace.index)
  }

  /** EngineeringUnits as OPC 10000-8, 5.6.3 has them; unknown symbols go out by name with id -1. */
  private addUnit(variable: UAVariable, unit: string) {
    const known = unitNames[unit]
    this.namespace.addVariable({
      propertyOf: variable,
      browseName: { name: 'EngineeringUnits', namespaceIndex: 0 },
      dataType: 'EUInformation',
      typeDefinition: 'PropertyType',
      modellingRule: 'Mandatory',
      value: {
        dataType: 'ExtensionObject',
        value: Object.assign(makeEUInformation(known?.code ?? '', unit, known?.name ?? unit), known ? {} : { unitId: -1 }),
      },
    })
  }

  private bind(served: Served) {
    const { tag, variable } = served
    let kept: Snapshot | null = null
    const { table } = this
    const { handle, type } = tag
    variable.bindVariable(
      {
        timestamped_get: () => {
          if (!served.alive) return goneValue()
          const sourceTime = table.sourceTime[handle]!
          const seenAt = table.seenAt[handle]!
          if (kept?.sourceTime !== sourceTime) this.changesTold++
          if (kept?.sourceTime !== sourceTime || kept.seenAt !== seenAt)
            kept = { dataValue: dataValueOf(table, handle, type), sourceTime, seenAt }
          return kept.dataValue
        },
        timestamped_set: (dataValue: DataValue) => (served.alive ? this.writeFromClient(tag, dataValue) : StatusCodes.BadNodeIdUnknown),
      } as never,
      true,
    )
    // the getter answers at once; without a refresh function sampling calls it directly
    ;(variable as unknown as { refreshFunc?: unknown }).refreshFunc = undefined
  }

  /**
   * Passes a client's write to the device. The node then shows what the device was read back to
   * hold, not what the client wished.
   */
  private async writeFromClient(tag: OutletTag, dataValue: DataValue): Promise<StatusCode> {
    const value = valueForType(dataValue.value, tag.type)
    if (value === null) return StatusCodes.BadTypeMismatch
    const outcome = await this.write(tag.handle, value)
    if (!outcome.ok) return statusCodeOf(outcome.quality)
    Object.assign(dataValue, dataValueOf(this.table, tag.handle, tag.type))
    return StatusCodes.Good
  }

  private folder(path: string): UAObject {
    if (path === '') return this.addressSpace.rootFolder.objects
    const known = this.folders.get(path)
    if (known) return known
    const folder = this.namespace.addFolder(this.folder(folderOf(path)), { browseName: nameOf(path), nodeId: this.nodeId(`${path}/`) })
    this.folders.set(path, folder)
    return folder
  }

  private dropEmptyFolders(path: string) {
    const folder = this.folders.get(path)
    if (!folder || folder.findReferencesAsObject('Organizes', true).length > 0) return
    this.addressSpace.deleteNode(folder)
    this.folders.delete(path)
    this.dropEmptyFolders(folderOf(path))
  }
}

const goneValue = () => new DataValue({ statusCode: StatusCodes.BadNodeIdUnknown })
const nextTurn = () => new Promise<void>((resolve) => setImmediate(resolve))
