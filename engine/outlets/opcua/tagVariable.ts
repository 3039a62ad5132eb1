import {
  AccessLevelFlag,
  DataValue,
  LocalizedText,
  PermissionType,
  StatusCodes,
  Variant,
  DataType as UaType,
  type ISessionContext,
  type Namespace,
  type NodeId,
  type StatusCode,
  type UAObject,
  type UAVariable,
} from 'node-opcua'
import type { Right } from '#core/outlets/rules'
import { isArrayType, type TagValue } from '#core/tags/types'
import { valueName } from '#core/tags/valueNames'
import type { Writer } from '#shared/writes'
import type { WriteOutcome } from '../../links/driver'
import { unknownWriter, writing } from './whoWrites'
import { dataValueOf, statusCodeOf, uaTypeOf, valueForType } from '../../opcua/variants'
import type { Handle, TagTable } from '../../table/tagTable'
import type { OutletTag } from '../driver'
import { guardBy, refreshBy } from '../../opcua/internals'
import { addMeaning, definitionOf, hasText, updateMeaning } from './meaning'

/** Who may do what with a path. */
export interface Permits {
  may(context: ISessionContext | null, path: string): Right
  opens(context: ISessionContext | null, folder: string): boolean
}

/** What every variable over the tag table needs. */
export interface Ground {
  table: TagTable
  write(handle: Handle, value: TagValue, by: Writer): Promise<WriteOutcome>
  permits: Permits
  /** Whether a tag is recorded now. */
  isRecorded(tagId: number): boolean
  /** How: the same for all. */
  pastIsRead: UAObject
  /** Called for each change handed out. */
  told(): void
}

/** A tag that is shown as a variable. */
export interface Shown {
  tag: OutletTag
  variable: UAVariable
  /** Has the name of its value, where values have names. */
  text: UAVariable | null
  /** False once the tag is gone: its handle may already belong to another. */
  alive: boolean
}

interface Place {
  /** Null: it stands in no folder. */
  home: UAObject | null
  nodeId: NodeId
  name: string
}

/** Built by a getter on demand and kept while nothing changes: most tags are looked at by nobody. */
type Snapshot = { dataValue: DataValue; sourceTime: number; seenAt: number }

/** The tag behind each node of one. */
export const shownBy = new WeakMap<object, Shown>()

/** Makes the node. Its value is not pushed into it: the node asks the tag table when it is read or sampled. */
export const showTag = (namespace: Namespace, ground: Ground, tag: OutletTag, { home, nodeId, name }: Place): Shown => {
  const variable = namespace.addVariable({
    ...(home ? { organizedBy: home } : {}),
    nodeId,
    browseName: name,
    description: tag.description || undefined,
    dataType: uaTypeOf(tag.type),
    valueRank: isArrayType(tag.type) ? 1 : -1,
    typeDefinition: definitionOf(tag),
    accessLevel: accessOf(tag),
    userAccessLevel: accessOf(tag),
    minimumSamplingInterval: 0,
    ...seenIf((context) => ground.permits.may(context, tag.path) !== 'nothing'),
  })
  addMeaning(namespace, variable, tag)
  const shown: Shown = { tag, variable, text: null, alive: true }
  shownBy.set(variable, shown)
  guard(variable, ground, tag.path)
  // it is asked for when a client reads the attribute (OPC 10000-3, 5.6.2)
  Object.defineProperty(variable, 'historizing', { get: () => shown.alive && ground.isRecorded(shown.tag.id), configurable: true })
  variable.addReference({ referenceType: 'HasHistoricalConfiguration', nodeId: ground.pastIsRead.nodeId })
  bind(shown, ground)
  if (hasText(tag)) shown.text = addText(namespace, shown, ground)
  return shown
}

/** Whether the node can become what the tag is now, so that those who monitor it need not notice. */
export const isSameNode = (before: OutletTag, after: OutletTag) =>
  before.path === after.path && before.type === after.type && definitionOf(before) === definitionOf(after)

export const isSameTag = (a: OutletTag, b: OutletTag) => JSON.stringify(a) === JSON.stringify(b)

/** Brings description, access and what the value means up to date, in place. */
export const updateShown = (shown: Shown, tag: OutletTag, ground: Ground) => {
  const { variable } = shown
  shown.tag = tag
  variable.setDescription(tag.description)
  variable.accessLevel = variable.userAccessLevel = accessOf(tag)
  updateMeaning(variable, tag)
  if (shown.text && isHeard(shown.text)) shown.text.emit('value_changed', textNow(shown, ground))
}

/** Nodes are browsed only by whom they concern. The package takes this option, and its types do not tell. */
export const seenIf = (sees: (context: ISessionContext | null) => boolean): object => ({
  browseFilter: (context?: ISessionContext) => sees(context ?? null),
})

const accessOf = ({ writable }: OutletTag) =>
  AccessLevelFlag.CurrentRead | AccessLevelFlag.HistoryRead | (writable ? AccessLevelFlag.CurrentWrite : 0)

/** The package asks this of each variable before it reads or writes for a client. @param path whose rights hold here. */
export const guard = (variable: UAVariable, { permits }: Pick<Ground, 'permits'>, path: string) =>
  guardBy(variable, (context, permission) => {
    const right = permits.may(context, path)
    return permission === PermissionType.Write ? right === 'write' : right !== 'nothing'
  })

const bind = (shown: Shown, ground: Ground) => {
  const { table } = ground
  const { handle, type } = shown.tag
  let kept: Snapshot | null = null
  shown.variable.bindVariable(
    {
      timestamped_get: () => {
        if (!shown.alive) return goneValue()
        const sourceTime = table.sourceTime[handle]!
        const seenAt = table.seenAt[handle]!
        if (kept?.sourceTime !== sourceTime) ground.told()
        if (kept?.sourceTime !== sourceTime || kept.seenAt !== seenAt)
          kept = { dataValue: dataValueOf(table, handle, type), sourceTime, seenAt }
        return kept.dataValue
      },
      timestamped_set: (dataValue: DataValue) => (shown.alive ? writeFromClient(shown, ground, dataValue) : StatusCodes.BadNodeIdUnknown),
    } as never,
    true,
  )
  refreshBy(shown.variable, undefined)
}

/** The name of the present value, as a property of those whose values have names (OPC 10000-8, 5.3.3.4). */
const addText = (namespace: Namespace, shown: Shown, ground: Ground): UAVariable => {
  const property = namespace.addVariable({
    propertyOf: shown.variable,
    browseName: { name: 'ValueAsText', namespaceIndex: 0 },
    dataType: 'LocalizedText',
    typeDefinition: 'PropertyType',
    modellingRule: 'Mandatory',
    accessLevel: 'CurrentRead',
    minimumSamplingInterval: 0,
  })
  guard(property, ground, shown.tag.path)
  property.bindVariable({ timestamped_get: () => (shown.alive ? textNow(shown, ground) : goneValue()) }, true)
  refreshBy(property, undefined)
  return property
}

const textNow = ({ tag: { handle, type, names } }: Shown, { table }: Ground): DataValue => {
  const told = dataValueOf(table, handle, type)
  const text = valueName(table.values[handle], names) ?? ''
  told.value = new Variant({ dataType: UaType.LocalizedText, value: new LocalizedText({ text }) })
  return told
}

/** Tells those who listen what the tag has now; nodes that nobody listens to are asked. */
export const announce = (shown: Shown, ground: Ground) => {
  const { tag, variable, text } = shown
  if (isHeard(variable)) {
    variable.emit('value_changed', dataValueOf(ground.table, tag.handle, tag.type))
    ground.told()
  }
  if (text && isHeard(text)) text.emit('value_changed', textNow(shown, ground))
}

const isHeard = (variable: UAVariable) => variable.listenerCount('value_changed') > 0

/**
 * Passes a client's write to the device. The node then shows what the device was read back to
 * hold, not what the client wished.
 */
const writeFromClient = async ({ tag }: Shown, { table, write }: Ground, dataValue: DataValue): Promise<StatusCode> => {
  const value = valueForType(dataValue.value, tag.type)
  if (value === null) return StatusCodes.BadTypeMismatch
  const outcome = await write(tag.handle, value, writing.getStore() ?? unknownWriter)
  if (!outcome.ok) return statusCodeOf(outcome.quality)
  Object.assign(dataValue, dataValueOf(table, tag.handle, tag.type))
  return StatusCodes.Good
}

const goneValue = () => new DataValue({ statusCode: StatusCodes.BadNodeIdUnknown })
