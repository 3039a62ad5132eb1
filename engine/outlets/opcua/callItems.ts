import { AttributeIds, type DataValue, type NodeId, type Variant } from 'node-opcua'
import { callValue, type CallItem } from '#core/calls/call'
import { valueOf } from '../../opcua/variants'

/** A node, and which of its attributes where it is not its value. */
export interface AskedNode {
  nodeId: NodeId
  attributeId?: number | undefined
}

export const nodeText = ({ nodeId, attributeId = AttributeIds.Value }: AskedNode): string =>
  attributeId === AttributeIds.Value
    ? nodeId.toString()
    : `${nodeId.toString()}, ${AttributeIds[attributeId] ?? `attribute ${attributeId}`}`

/** What a variant holds; what is no value of a tag by its own words. */
export const valueText = ({ value }: { value?: Variant | null | undefined }): string | null => {
  if (!value || value.value === null || value.value === undefined) return null
  return callValue(valueOf(value)) ?? String(value.value).slice(0, 200)
}

export const readItem = (what: string, data: DataValue, refused: boolean): CallItem => ({
  ...{ what, value: valueText(data), status: data.statusCode.name, refused },
})
