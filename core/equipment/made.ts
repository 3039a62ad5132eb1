import { z } from 'zod'
import { readFormula } from '../formulas/compile'
import type { Limit } from '../alarms/limits'
import type { ScalarType } from '../tags/types'
import type { EquipmentOf, Model } from './model'
import { gatherWays, overField, rollupWays, windowContract, type Property } from './settings'
import { windowText } from './windows'

/** What the value of a property of one piece of equipment is made of, with the paths of the tags that it reads. */

const pathField = z.string().max(240)
const value = z.union([z.boolean(), z.number(), z.string()])

export const madeOfContract = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('constant'), value: value.nullable() }),
  z.object({ kind: z.literal('input'), path: pathField.describe('Empty: nothing is bound.') }),
  z.object({ kind: z.literal('formula'), formula: z.string(), inputs: z.record(z.string(), pathField) }),
  z.object({
    kind: z.literal('rollup'),
    of: pathField,
    how: z.enum(rollupWays),
    window: windowContract,
    over: overField.default(1),
    shows: z.enum(['last', 'running']),
  }),
  z.object({ kind: z.literal('gather'), of: z.array(pathField), how: z.enum(gatherWays) }),
])
export type MadeOf = z.output<typeof madeOfContract>

/** A tag that equipment comes to. */
export interface PropertyTag {
  equipmentId: number
  property: string
  path: string
  type: ScalarType
  unit: string
  description: string
  limits: Limit[]
  made: MadeOf
}

/** What a rollup gives is a number of its own, whatever it is of. */
export const typeOfProperty = ({ made, type }: Property, all: readonly Property[]): ScalarType => {
  if (made.kind === 'rollup' && (made.how === 'first' || made.how === 'last'))
    return all.find(({ name }) => name === made.of)?.type ?? 'float64'
  if (made.kind === 'rollup') return 'float64'
  if (made.kind === 'gather') return made.how === 'all true' || made.how === 'any true' ? 'bool' : 'float64'
  return type
}

/** All tags of a piece of equipment, in the order of its properties. */
export const propertyTags = (model: Model, equipment: EquipmentOf): PropertyTag[] => {
  const properties = model.propertiesOf(equipment.class)
  return properties.map((property) => ({
    ...{ equipmentId: equipment.id, property: property.name, path: `${equipment.path}/${property.name}` },
    ...{ type: typeOfProperty(property, properties), unit: property.unit },
    description: property.description || property.title,
    limits: property.limits,
    made: madeOf(model, equipment, property),
  }))
}

const madeOf = (model: Model, { path: folder, constants, bindings }: EquipmentOf, { name, made }: Property): MadeOf => {
  switch (made.kind) {
    case 'constant':
      return { kind: 'constant', value: constants[name] ?? made.value }
    case 'input':
      return { kind: 'input', path: bindings[name] ?? '' }
    case 'formula': {
      const read = readFormula(made.formula)
      const names = read.ok ? read.formula.names : []
      return { kind: 'formula', formula: made.formula, inputs: Object.fromEntries(names.map((input) => [input, `${folder}/${input}`])) }
    }
    case 'rollup':
      return { kind: 'rollup', of: `${folder}/${made.of}`, how: made.how, window: made.window, over: made.over, shows: made.shows }
    case 'gather': {
      const children = made.depth === 'all' ? model.below(folder) : model.children(folder)
      const paths = children
        .filter((child) => made.class === '' || model.isKindOf(child.class, made.class))
        .filter((child) => model.propertiesOf(child.class).some((one) => one.name === made.of))
        .map(({ path }) => `${path}/${made.of}`)
      return { kind: 'gather', of: paths, how: made.how }
    }
  }
}

/** The tags that it reads, by their paths. */
export const pathsIn = (made: MadeOf): string[] => {
  switch (made.kind) {
    case 'constant':
      return []
    case 'input':
      return made.path === '' ? [] : [made.path]
    case 'formula':
      return Object.values(made.inputs)
    case 'rollup':
      return [made.of]
    case 'gather':
      return made.of
  }
}

/** The same with those tags as they are called now. */
export const renamedMade = (made: MadeOf, nowCalled: (path: string) => string): MadeOf => {
  switch (made.kind) {
    case 'constant':
      return made
    case 'input':
      return { ...made, path: nowCalled(made.path) }
    case 'formula':
      return { ...made, inputs: Object.fromEntries(Object.entries(made.inputs).map(([name, path]) => [name, nowCalled(path)])) }
    case 'rollup':
      return { ...made, of: nowCalled(made.of) }
    case 'gather':
      return { ...made, of: made.of.map(nowCalled) }
  }
}

/** By what the tag of a property is known again: a rollup with another window, or of another kind, is another one. */
export const identityOf = ({ property, made }: Pick<PropertyTag, 'property' | 'made'>): string => {
  if (made.kind !== 'rollup') return property
  const slides = made.over === 1 ? '' : `, ${made.over} together`
  return `${property} ${made.how} ${windowText(made.window)}${slides}`
}
