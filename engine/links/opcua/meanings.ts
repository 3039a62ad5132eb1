import { type EUInformation, type LocalizedText, type NodeId, type Range } from 'node-opcua'
import { namesFrom, type ValueName } from '#core/tags/valueNames'
import type { PlaceDetails } from '#shared/browse'
import type { Explorer } from './browse'
import { propertiesOf } from './properties'

/** What stands beside a value: its unit, its range, what its values are called. */
export type Meaning = Pick<PlaceDetails, 'unit' | 'range' | 'names'>
export const noMeaning: Meaning = { unit: '', range: null }

interface Variable {
  nodeId: string
  dataType: NodeId | null
  isList: boolean
}

/** By the properties of variables (OPC 10000-8, 5.3 and 5.6.3), and by their types. @param variables null: none, asked for nothing */
export const meaningsOf = async (explorer: Explorer, variables: readonly (Variable | null)[]): Promise<Meaning[]> => {
  const asked = variables.flatMap((variable) => (variable ? [variable] : []))
  const told = await propertiesOf(
    explorer.services,
    asked.map(({ nodeId }) => nodeId),
    wanted,
  )
  const found = await Promise.all(asked.map(async (variable, i) => meaningOf(told[i]!, await typeStates(explorer, variable))))
  const next = found.values()
  return variables.map((variable) => (variable ? next.next().value! : noMeaning))
}

const typeStates = ({ states }: Explorer, { dataType, isList }: Variable) => (dataType && !isList ? states(dataType) : [])

const meaningOf = (told: ReadonlyMap<string, unknown>, ofType: readonly ValueName[]): Meaning => {
  const [unit, range] = [told.get('EngineeringUnits'), told.get('EURange')] as [EUInformation?, Range?]
  const own = statesIn(told)
  const names = own.length > 0 ? own : [...ofType]
  return {
    unit: unit?.displayName?.text ?? '',
    range: range ? { low: range.low, high: range.high } : null,
    ...(names.length > 0 ? { names } : {}),
  }
}

/** Properties that name the values of an enumeration, of a variable or of a data type (OPC 10000-3, 5.8.3 and OPC 10000-8, 5.3.3). */
export const stateProperties = ['EnumValues', 'EnumStrings', 'TrueState', 'FalseState'] as const
const wanted: readonly string[] = ['EngineeringUnits', 'EURange', ...stateProperties]

export const statesIn = (told: ReadonlyMap<string, unknown>): ValueName[] => {
  const texts = (name: string) => told.get(name) as readonly (LocalizedText | null)[] | undefined
  const values = told.get('EnumValues') as readonly EnumValue[] | undefined
  if (values) return namesFrom(values.map(named))
  const strings = texts('EnumStrings')
  if (strings) return namesFrom(strings.map((text, value) => ({ value, name: text?.text ?? '' })))
  const states = ['FalseState', 'TrueState'].map((name) => told.get(name) as LocalizedText | undefined)
  return namesFrom(states.map((text, value) => ({ value, name: text?.text ?? '' })))
}

/** As EnumValueType and EnumField have it; whole numbers of 64 bits come in two halves. */
export interface EnumValue {
  value: readonly [high: number, low: number]
  displayName?: { text?: string | null } | null
  name?: string | null
}

export const named = ({ value: [high, low], displayName, name }: EnumValue): ValueName => ({
  value: (high | 0) * 2 ** 32 + low,
  name: displayName?.text || name || '',
})
