import { DataType, NodeId, NodeIdType, Variant, type AddressSpace, type UAObject, type UAVariable } from 'node-opcua'
import { usualShare } from '#core/opcua/processed'

/** What each variable with a past refers to. */
const told: Readonly<Record<string, Variant>> = {
  // values hold until the next one
  Stepped: new Variant({ dataType: DataType.Boolean, value: true }),
  TreatUncertainAsBad: new Variant({ dataType: DataType.Boolean, value: true }),
  PercentDataGood: new Variant({ dataType: DataType.Byte, value: usualShare.good }),
  PercentDataBad: new Variant({ dataType: DataType.Byte, value: usualShare.bad }),
  UseSlopedExtrapolation: new Variant({ dataType: DataType.Boolean, value: false }),
}

/** How what is recorded is to be read, and worked out: one object for all of it (OPC 10000-11, 5.2.3; OPC 10000-13, 4.2.1.2). */
export const historyConfiguration = (addressSpace: AddressSpace): UAObject => {
  const namespace = addressSpace.getOwnNamespace()
  const type = addressSpace.findObjectType('HistoricalDataConfigurationType')
  if (!type) throw new Error('the nodes of the standard have no HistoricalDataConfigurationType')
  const made = type.instantiate({
    browseName: 'HA Configuration',
    namespace,
    nodeId: new NodeId(NodeIdType.STRING, '/history', namespace.index),
  })
  const aggregates = made.getComponentByName('AggregateConfiguration')
  for (const [name, value] of Object.entries(told)) {
    const property = (made.getPropertyByName(name) ?? aggregates?.getPropertyByName(name)) as UAVariable | null | undefined
    property?.setValueFromSource(value)
  }
  return made
}
