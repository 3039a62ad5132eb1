import type { NodeId } from 'node-opcua'
import { z } from 'zod'
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
  const range = euRange.safeParse(told.get('EURange'))
  const own = statesIn(told)
  const names = own.length > 0 ? own : [...ofType]
  return {
    unit: euInformation.safeParse(told.get('EngineeringUnits')).data?.displayName.text ?? '',
    range: range.success ? range.data : null,
    ...(names.length > 0 ? { names } : {}),
  }
}

/** Properties that name the values of an enumeration, of a variable or of a data type (OPC 10000-3, 5.8.3 and OPC 10000-8, 5.3.3). */
export const stateProperties = ['EnumValues', 'EnumStrings', 'TrueState', 'FalseState'] as const
const wanted: readonly string[] = ['EngineeringUnits', 'EURange', ...stateProperties]

export const statesIn = (told: ReadonlyMap<string, unknown>): ValueName[] => {
  const values = listOf(told.get('EnumValues'))
  if (values.length > 0) return namesFrom(values.flatMap(stateOf))
  const strings = listOf(told.get('EnumStrings'))
  const texts = strings.length > 0 ? strings : ['FalseState', 'TrueState'].map((name) => told.get(name))
  return namesFrom(texts.map((text, value) => ({ value, name: localized.safeParse(text).data?.text ?? '' })))
}

const listOf = (told: unknown): readonly unknown[] => (Array.isArray(told) ? told : [])

/** What one entry says, as EnumValueType and EnumField have it; nothing where it is neither. */
export const stateOf = (entry: unknown): ValueName[] => {
  const read = enumValue.safeParse(entry)
  if (!read.success) return []
  const { value, displayName, name } = read.data
  const [high, low] = value
  return [{ value: (high | 0) * 2 ** 32 + low, name: displayName?.text || name || '' }]
}

/** What servers tell is read by the standard's types (OPC 10000-3, 8.5, 8.40; OPC 10000-8, 5.6.2 and 5.6.3). */
const localized = z.object({ text: z.string().nullish() })
const euInformation = z.object({ displayName: localized })
const euRange = z.object({ low: z.number(), high: z.number() })
/** Whole numbers of 64 bits come in two halves. */
const half = z.int().min(0).max(0xffffffff)
const enumValue = z.object({ value: z.tuple([half, half]), displayName: localized.nullish(), name: z.string().nullish() })
