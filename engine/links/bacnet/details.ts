import type { BacnetAddress } from '#core/bacnet/address'
import type { AppValue } from '#core/bacnet/appValue'
import { appText, toTag } from '#core/bacnet/conversion'
import { objectType, objectTypeName } from '#core/bacnet/names/objectTypes'
import { unitText } from '#core/bacnet/names/units'
import { formOf, prop } from '#core/bacnet/property'
import type { PropertyRef } from '#core/bacnet/services'
import { quality } from '#core/tags/quality'
import type { DataType } from '#core/tags/types'
import { namesFrom, type ValueName } from '#core/tags/valueNames'
import { valueText } from '#core/text/number'
import type { Place, PlaceDetails } from '#shared/browse'
import { toWire } from '#shared/values'
import { textIn } from './inventory'

/** What is asked of each object that is shown or taken. */
export const asked = [
  ...[prop.presentValue, prop.units, prop.description, prop.statusFlags, prop.priorityArray],
  ...[prop.minPresValue, prop.maxPresValue, prop.stateText, prop.inactiveText, prop.activeText],
] as const

export const refsFor = ({ object, property, index }: BacnetAddress): PropertyRef[] =>
  property === prop.presentValue ? asked.map((one) => ({ object, property: one, index: null })) : [{ object, property, index }]

export const nothing: PlaceDetails = {
  ...{ address: '', member: '', type: null, typeName: '', access: 'none', unit: '', range: null, description: '', value: null, text: '' },
  ...{ hasParts: false, quality: quality.Good, sourceTime: 0, samplesEvery: null, children: null, childrenMore: false },
}

/** What the properties of a place say, in the order of {@link refsFor}. */
export const detailsOf = (place: Place, address: BacnetAddress, values: (AppValue[] | null)[]): PlaceDetails => {
  const own = values[0] ?? null
  const type = typeFor(address, own)
  const converted = own && type ? toTag(own, type) : null
  const isValue = address.property === prop.presentValue
  return {
    ...nothing,
    ...place,
    type,
    typeName: isValue ? objectTypeName(address.object.type) : (own?.[0]?.tag ?? ''),
    access: own === null ? 'none' : 'read',
    value: converted?.ok ? toWire(converted.value) : null,
    text: converted?.ok ? valueText(converted.value, type!) : (own ?? []).map(appText).join(', '),
    quality: own ? quality.Good : quality.BadNoData,
    ...(isValue ? valueDetails(address, values) : {}),
  }
}

/** What stands beside a present value. */
const valueDetails = ({ object }: BacnetAddress, values: (AppValue[] | null)[]): Partial<PlaceDetails> => {
  const [own, units, description, , levels, low, high, states, off, on] = values.map((value) => value ?? null)
  const isWritten = (levels ?? null) !== null || objectType(object.type)?.commandable === 'always'
  return {
    ...(own && isWritten ? { access: 'readwrite' as const } : {}),
    unit: units?.[0]?.tag === 'enumerated' ? unitText(units[0].value) : '',
    range: rangeOf(numberIn(low), numberIn(high)),
    names: statesIn(states ?? null, off ?? null, on ?? null),
    description: textIn(description ?? null) ?? '',
  }
}

const numberIn = (values: AppValue[] | null | undefined): number | null => {
  const value = values?.[0]
  return value?.tag === 'real' || value?.tag === 'double' ? value.value : null
}

/** Devices that know no limits give the largest numbers there are. */
const rangeOf = (low: number | null, high: number | null) =>
  low !== null && high !== null && low < high && Math.abs(low) < 1e30 && Math.abs(high) < 1e30 ? { low, high } : null

const typeFor = ({ object, property, index }: BacnetAddress, values: AppValue[] | null): DataType | null => {
  // levels that nobody holds are null, which no tag can carry
  if (property === prop.priorityArray && index === null) return null
  const form = formOf(object.type, property)
  if (form) return index === null ? form.type : (form.type.replace('[]', '') as DataType)
  const [value] = values ?? []
  if (!value || values!.length > 1) return null
  return typesByTag[value.tag] ?? null
}

const typesByTag: Partial<Record<AppValue['tag'], DataType>> = {
  ...{ boolean: 'bool', unsigned: 'uint32', signed: 'int32', enumerated: 'uint32', real: 'float32', double: 'float64' },
  ...{ text: 'string', octets: 'string', bits: 'bool[]', object: 'string', date: 'string', time: 'string' },
}

const statesIn = (states: AppValue[] | null, off: AppValue[] | null, on: AppValue[] | null): ValueName[] =>
  namesFrom(
    states && states.length > 0
      ? states.map((state, i) => ({ value: i + 1, name: appText(state) }))
      : [off, on].map((text, value) => ({ value, name: textIn(text) ?? '' })),
  )
