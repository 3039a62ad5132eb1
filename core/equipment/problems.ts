import { limitProblems } from '../alarms/limits'
import { readFormula } from '../formulas/compile'
import { unitProblem } from '../formulas/units'
import { folderOf, isWithin, pathProblem } from '../tags/path'
import { isNumeric } from '../tags/types'
import { typeOfProperty } from './made'
import { Model, circleAmong, type EquipmentOf } from './model'
import type { ClassDraft, EquipmentDraft, Property } from './settings'

interface Problem {
  path: string
  message: string
}

/** What is wrong with a class that its contract does not tell. @param before what it is called where it is saved; null: it is new */
export const classProblems = (draft: ClassDraft, before: string | null, model: Model): Problem[] => {
  const others = [...model.classes.values()].filter(({ name }) => name !== before)
  const other = new Model(
    [...others.map((one) => (one.parent === before && before !== null ? { ...one, parent: draft.name } : one)), draft],
    [],
  )
  const line = other.lineOf(draft.name)
  const problems: Problem[] = []
  const ofField = (path: string, message: string) => problems.push({ path, message })
  if (draft.parent !== '' && (draft.parent === draft.name || draft.parent === before)) ofField('parent', 'A class is not made from itself.')
  else if (draft.parent !== '' && !other.classes.has(draft.parent)) ofField('parent', 'There is no such class.')
  else if (line.at(-1)!.parent !== '' && other.classes.has(line.at(-1)!.parent))
    ofField('parent', `It would be made from itself: ${[...line.map(({ name }) => name), draft.name].join(' ← ')}.`)
  const all = other.propertiesOf(draft.name)
  const inherited = new Map(other.propertiesOf(draft.parent).map((property) => [property.name, property]))
  for (const [i, property] of draft.properties.entries()) {
    const message = propertyProblem(property, all, other)
    if (message) ofField(`properties.${i}.${message.field}`, message.text)
    for (const { path, message: text } of limitProblems(property.limits, typeOfProperty(property, all)))
      ofField(`properties.${i}.${path}`, text)
    const above = inherited.get(property.name)
    if (above && above.type !== property.type)
      ofField(
        `properties.${i}.type`,
        `The class that it is made from has ${property.name} as ${above.type}; what formulas make of it would break.`,
      )
  }
  for (const { field, text } of circles(draft, all)) ofField(field, text)
  return problems
}

/** What is counted or is true has none. */
const unitGiven = (property: Property | undefined): string => (property && isNumeric(property.type) ? property.unit : '')

const named = (name: string, all: readonly Property[]) => all.find((property) => property.name === name)

const propertyProblem = (
  { name, made, type, unit }: Property,
  all: readonly Property[],
  model: Model,
): { field: string; text: string } | null => {
  if (made.kind === 'formula') {
    const read = readFormula(made.formula)
    if (!read.ok) return { field: 'made.formula', text: read.problem }
    const missing = read.formula.names.find((input) => !named(input, all))
    if (missing) return { field: 'made.formula', text: `There is no property ${missing}.` }
    const misfit = unitProblem(made.formula, (input) => unitGiven(named(input, all)), unit)
    if (misfit) return { field: 'made.formula', text: misfit }
  }
  if (made.kind === 'rollup') {
    const of = named(made.of, all)
    if (!of) return { field: 'made.of', text: `There is no property ${made.of}.` }
    if (made.of === name) return { field: 'made.of', text: 'A rollup is of another property.' }
    return rollupProblem(of, made.how)
  }
  if (made.kind === 'gather' && made.class !== '' && !model.classes.has(made.class))
    return { field: 'made.class', text: 'There is no such class.' }
  if (made.kind === 'constant' && made.value !== null) return fitting(made.value, type)
  return null
}

const rollupProblem = ({ name, type }: Property, how: string): { field: string; text: string } | null => {
  const problem = (text: string) => ({ field: 'made.how', text })
  if (type === 'string') return { field: 'made.of', text: `${name} is text, which is not rolled up.` }
  if (how === 'time true')
    return type === 'bool'
      ? null
      : problem(`${name} is no switch: how long it was true is told of a bool only. A formula makes one, as in state == 3.`)
  if (how === 'first' || how === 'last' || how === 'count') return null
  if (type === 'bool') return problem(`${name} is true or false; of it there is time true, count, first and last.`)
  return isNumeric(type) ? null : problem(`${name} is a time, and has no ${how}.`)
}

const fitting = (value: boolean | number | string, type: Property['type']): { field: string; text: string } | null => {
  const wanted = type === 'bool' ? 'boolean' : type === 'string' ? 'string' : 'number'
  return typeof value === wanted
    ? null
    : {
        field: 'made.value',
        text: `${type} takes ${wanted === 'boolean' ? 'true or false' : `a ${wanted === 'string' ? 'text' : 'number'}`}.`,
      }
}

/** Formulas and rollups that read themselves in the end. */
const circles = (draft: ClassDraft, all: readonly Property[]): { field: string; text: string }[] => {
  const reads = new Map(
    all.flatMap(({ name, made }): [string, string[]][] => {
      if (made.kind === 'rollup') return [[name, [made.of]]]
      if (made.kind !== 'formula') return []
      const read = readFormula(made.formula)
      return [[name, read.ok ? read.formula.names : []]]
    }),
  )
  const way = circleAmong(reads)
  if (!way) return []
  const at = draft.properties.findIndex(({ name }) => way.includes(name))
  return [{ field: at < 0 ? 'properties' : `properties.${at}.made`, text: `It reads itself in the end: ${way.join(' → ')}.` }]
}

/** What is wrong with a piece of equipment that its contract does not tell. @param id its own, where it is saved */
export const equipmentProblems = (draft: EquipmentDraft, id: number | null, model: Model): Problem[] => {
  const problems: Problem[] = []
  const ofField = (path: string, message: string) => problems.push({ path, message })
  if (draft.class !== '' && !model.classes.has(draft.class)) ofField('class', 'There is no such class.')
  const before = id === null ? undefined : model.equipment.get(id)
  const parent = folderOf(draft.path)
  const isThere = (path: string) => {
    const found = model.byPath.get(path)
    return found !== undefined && found.id !== id
  }
  if (parent !== '' && !isThere(parent)) {
    const isInside = before !== undefined && isWithin(parent, before.path)
    ofField('path', isInside ? 'It would be part of itself.' : `There is no equipment “${parent}” that it could be part of.`)
  } else if (before !== undefined && draft.path !== before.path && isWithin(draft.path, before.path))
    ofField('path', 'It would be part of itself.')
  if (model.namedLike(draft.path).some((one) => one.id !== id)) ofField('path', `There is “${draft.path}” already.`)
  const properties = model.propertiesOf(draft.class)
  const longest = properties.reduce((most, { name }) => (name.length > most.length ? name : most), 'x')
  const tooLong = pathProblem(`${draft.path}/${longest}`)
  if (tooLong) ofField('path', tooLong)
  problems.push(
    ...bindingProblems(draft, properties, (tag) => model.boundTo(tag).find((one) => one.id !== id)),
    ...constantProblems(draft, properties),
  )
  for (const [i, { to }] of draft.relations.entries()) if (!isThere(to)) ofField(`relations.${i}.to`, 'There is no such equipment.')
  return problems
}

const bindingProblems = (
  { bindings }: EquipmentDraft,
  properties: readonly Property[],
  rivalFor: (tag: string) => EquipmentOf | undefined,
): Problem[] =>
  Object.entries(bindings).flatMap(([name, path]) => {
    const property = named(name, properties)
    const problem = (message: string) => [{ path: `bindings.${name}`, message }]
    if (path === '') return []
    if (!property || property.made.kind !== 'input') return problem(`${name} is no input of this class.`)
    const bad = pathProblem(path)
    if (bad) return problem(bad)
    const rival = property.made.alone ? rivalFor(path) : undefined
    return rival ? problem(`“${rival.path}” has this tag as its input, and the class allows one equipment only.`) : []
  })

const constantProblems = ({ constants }: EquipmentDraft, properties: readonly Property[]): Problem[] =>
  Object.entries(constants).flatMap(([name, value]) => {
    const property = named(name, properties)
    if (!property || property.made.kind !== 'constant')
      return [{ path: `constants.${name}`, message: `${name} is no constant of this class.` }]
    const unfit = fitting(value, property.type)
    return unfit ? [{ path: `constants.${name}`, message: unfit.text }] : []
  })
