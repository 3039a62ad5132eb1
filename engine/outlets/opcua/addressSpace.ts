import {
  AccessLevelFlag,
  type AddressSpace,
  type DataValue,
  type Namespace,
  makeEUInformation,
  type StatusCode,
  StatusCodes,
  type UAObject,
  type UAVariable,
} from 'node-opcua'
import { folderOf, nameOf } from '#core/tags/path'
import type { TagValue } from '#core/tags/types'
import { unitNames } from '#core/tags/units'
import type { WriteOutcome } from '../../links/driver'
import type { Handle, TagTable } from '../../table/tagTable'
import type { OutletTag } from '../driver'
import { dataValueOf, statusCodeOf, uaTypeOf, valueOf } from './variants'

export const tagNamespace = 'urn:keen-conduit:tags'

interface Served {
  tag: OutletTag
  variable: UAVariable
}

/** Built by a getter on demand and kept while nothing changes: most tags are looked at by nobody. */
type Snapshot = { dataValue: DataValue; sourceTime: number; seenAt: number }

/**
 * Tags as nodes: folders below Objects, a Variable for each tag, `nsu=urn:keen-conduit:tags;s=<path>`.
 * Values are not pushed into nodes. A node asks the tag table when it is read or sampled, and
 * only nodes with listeners are told of changes.
 */
export class TagNodes {
  private served = new Map<Handle, Served>()
  private folders = new Map<string, UAObject>()
  private namespace: Namespace

  constructor(
    private addressSpace: AddressSpace,
    private table: TagTable,
    private write: (handle: Handle, value: TagValue) => Promise<WriteOutcome>,
    private mayWrite: () => boolean,
  ) {
    this.namespace = addressSpace.registerNamespace(tagNamespace)
  }

  set(tag: OutletTag) {
    this.remove(tag.handle)
    const variable = this.addVariable(tag)
    this.served.set(tag.handle, { tag, variable })
  }

  remove(handle: Handle) {
    const found = this.served.get(handle)
    if (!found) return
    this.served.delete(handle)
    this.addressSpace.deleteNode(found.variable)
    this.dropEmptyFolders(folderOf(found.tag.path))
  }

  /** Tells listeners about changes; returns how many nodes had any. */
  announce(handles: readonly Handle[]): number {
    let told = 0
    for (const handle of handles) {
      const found = this.served.get(handle)
      if (!found || found.variable.listenerCount('value_changed') === 0) continue
      found.variable.emit('value_changed', dataValueOf(this.table, handle, found.tag.type))
      told++
    }
    return told
  }

  get size() {
    return this.served.size
  }

  private addVariable(tag: OutletTag): UAVariable {
    const access = AccessLevelFlag.CurrentRead | (tag.writable ? AccessLevelFlag.CurrentWrite : 0)
    const variable = this.namespace.addVariable({
      organizedBy: this.folder(folderOf(tag.path)),
      nodeId: `s=${tag.path}`,
      browseName: nameOf(tag.path),
      description: tag.description || undefined,
      dataType: uaTypeOf[tag.type],
      typeDefinition: tag.unit ? 'AnalogUnitType' : 'BaseDataVariableType',
      accessLevel: access,
      userAccessLevel: access,
      minimumSamplingInterval: 0,
    })
    if (tag.unit) this.addUnit(variable, tag.unit)
    this.bind(variable, tag)
    return variable
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

  private bind(variable: UAVariable, tag: OutletTag) {
    let kept: Snapshot | null = null
    const { table } = this
    const { handle, type } = tag
    variable.bindVariable(
      {
        timestamped_get: () => {
          const sourceTime = table.sourceTime[handle]!
          const seenAt = table.seenAt[handle]!
          if (kept?.sourceTime !== sourceTime || kept.seenAt !== seenAt)
            kept = { dataValue: dataValueOf(table, handle, type), sourceTime, seenAt }
          return kept.dataValue
        },
        timestamped_set: (dataValue: DataValue) => this.writeFromClient(tag, dataValue),
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
    if (!this.mayWrite()) return StatusCodes.BadUserAccessDenied
    const value = valueOf(dataValue.value, tag.type)
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
    const folder = this.namespace.addFolder(this.folder(folderOf(path)), { browseName: nameOf(path), nodeId: `s=${path}/` })
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
