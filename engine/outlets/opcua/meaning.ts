import {
  coerceInt64,
  DataType as UaType,
  EnumValueType,
  LocalizedText,
  makeEUInformation,
  Range,
  Variant,
  VariantArrayType,
  type Namespace,
  type UAVariable,
} from 'node-opcua'
import { elementOf, integerRanges, isNumeric } from '#core/tags/types'
import { unitNames } from '#core/tags/units'
import type { ValueName } from '#core/tags/valueNames'
import type { OutletTag } from '../driver'

/** What programs are told of a value besides it: by properties whose names the standard has (OPC 10000-8, 5.3). */
type Properties = Partial<Record<string, Property>>

interface Property {
  dataType: string
  value: Variant
}

/** The type that says which properties a variable has (OPC 10000-8, 5.3.2 and 5.3.3). */
export const definitionOf = ({ type, unit, range, names }: Pick<OutletTag, 'type' | 'unit' | 'range' | 'names'>): string => {
  if (type === 'bool' && isBoth(names)) return 'TwoStateDiscreteType'
  if (type in integerRanges && names.length > 0) return 'MultiStateValueDiscreteType'
  if (!isNumeric(elementOf(type)) || (!unit && !range)) return 'BaseDataVariableType'
  return unit ? (range ? 'AnalogUnitRangeType' : 'AnalogUnitType') : 'AnalogItemType'
}

const isBoth = (names: readonly ValueName[]) => [0, 1].every((state) => names.some(({ value }) => value === state))

const propertiesOf = (tag: OutletTag): Properties => {
  const definition = definitionOf(tag)
  if (definition === 'BaseDataVariableType') return {}
  if (definition === 'TwoStateDiscreteType')
    return { FalseState: textProperty(nameAt(tag.names, 0)), TrueState: textProperty(nameAt(tag.names, 1)) }
  if (definition === 'MultiStateValueDiscreteType') return { EnumValues: statesProperty(tag.names) }
  return {
    ...(tag.unit ? { EngineeringUnits: structure('EUInformation', unitOf(tag.unit)) } : {}),
    ...(tag.range ? { EURange: structure('Range', new Range(tag.range)) } : {}),
  }
}

/** The property that has the present value as text, of the type that wants one (OPC 10000-8, 5.3.3.4). */
export const hasText = (tag: OutletTag) => definitionOf(tag) === 'MultiStateValueDiscreteType'

export const addMeaning = (namespace: Namespace, variable: UAVariable, tag: OutletTag) => {
  for (const [name, property] of Object.entries(propertiesOf(tag))) addProperty(namespace, variable, name, property!)
}

/** Brings what was added up to date, in place. */
export const updateMeaning = (variable: UAVariable, tag: OutletTag) => {
  for (const [name, property] of Object.entries(propertiesOf(tag))) variable.getPropertyByName(name, 0)?.setValueFromSource(property!.value)
}

const addProperty = (namespace: Namespace, variable: UAVariable, name: string, { dataType, value }: Property) =>
  namespace.addVariable({
    propertyOf: variable,
    browseName: { name, namespaceIndex: 0 },
    dataType,
    valueRank: value.arrayType === VariantArrayType.Array ? 1 : -1,
    typeDefinition: 'PropertyType',
    modellingRule: 'Mandatory',
    accessLevel: 'CurrentRead',
    value,
  })

const structure = (dataType: string, value: object): Property => ({
  dataType,
  value: new Variant({ dataType: UaType.ExtensionObject, value }),
})

const textProperty = (text: string): Property => ({
  dataType: 'LocalizedText',
  value: new Variant({ dataType: UaType.LocalizedText, value: new LocalizedText({ text }) }),
})

const statesProperty = (names: readonly ValueName[]): Property => ({
  dataType: 'EnumValueType',
  value: new Variant({
    dataType: UaType.ExtensionObject,
    arrayType: VariantArrayType.Array,
    value: names.map(
      ({ value, name }) => new EnumValueType({ value: coerceInt64(value), displayName: { text: name }, description: { text: '' } }),
    ),
  }),
})

const nameAt = (names: readonly ValueName[], at: number) => names.find(({ value }) => value === at)!.name

/** EngineeringUnits as OPC 10000-8, 5.6.3 has them; unknown symbols go out by name with id -1. */
const unitOf = (unit: string) => {
  const known = unitNames[unit]
  return Object.assign(makeEUInformation(known?.code ?? '', unit, known?.name ?? unit), known ? {} : { unitId: -1 })
}
