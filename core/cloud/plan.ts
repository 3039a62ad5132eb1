import type { CloudClass, CloudEquipment, CloudProperty, ModelStep, PlatformModel } from './entries'
import type { WantedModel } from './wanted'

/** What is to be done over there so that the model is as it is here. */
export interface PlannedStep {
  what: 'class' | 'equipment'
  /** “match”: it is there already, by its name and not yet as ours. */
  how: 'make' | 'match' | 'change' | 'remove'
  key: string
  name: string
  /** In which it is otherwise there, in words. */
  differences: string[]
  /** Why it is not done; null: it may be. */
  problem: string | null
  step: ModelStep
}

type Entry = CloudClass | CloudEquipment
type There<T> = T & { id: string }

/** By what a plan is known again. */
export const planText = (plan: readonly PlannedStep[]): string => JSON.stringify(plan.map(({ how, step, problem }) => [how, step, problem]))

export const isOurs = (key: string) => /^(class|equipment)-\d+$/.test(key)

/**
 * Compares the model as it is wanted with the one that a platform has. What is known by its key is changed; what is not yet known is
 * matched by its name within the same whole, so that nothing stands there twice; what is no longer here may be removed.
 *
 * @param names whose names hold where something was renamed over there
 */
export const planBetween = (wanted: WantedModel, there: PlatformModel, names: 'here' | 'there'): PlannedStep[] => {
  const classes = planClasses(wanted.classes, there.classes, names)
  const equipment = planEquipment(wanted.equipment, there.equipment, names)
  return [...classes.steps, ...equipment.steps, ...equipment.removals, ...classes.removals]
}

interface Part {
  steps: PlannedStep[]
  removals: PlannedStep[]
}

const planClasses = (wanted: readonly CloudClass[], there: readonly There<CloudClass>[], names: 'here' | 'there'): Part => {
  const byKey = keyed(there)
  const byName = new Map(there.filter(({ key }) => !isOurs(key)).map((one) => [one.name.toLowerCase(), one]))
  const steps = wanted.flatMap((one) => {
    const known = byKey.get(one.key)
    const put = known && names === 'there' ? { ...one, name: known.name } : one
    const match = known ?? byName.get(one.name.toLowerCase()) ?? null
    const differences = match ? classDifferences(put, match) : []
    if (known && differences.length === 0) return []
    const problem = match && !known ? typeConflict(one, match) : null
    return [planned('class', one.key, one.name, { known, match, differences, problem }, { does: 'put class', id: match?.id ?? '', put })]
  })
  const kept = new Set(wanted.map(({ key }) => key))
  const removals = there.filter(({ key }) => isOurs(key) && !kept.has(key)).map((one) => removal('class', one))
  return { steps, removals }
}

const planEquipment = (wanted: readonly CloudEquipment[], there: readonly There<CloudEquipment>[], names: 'here' | 'there'): Part => {
  const byKey = keyed(there)
  const placeOf = ({ parent, name }: Pick<CloudEquipment, 'parent' | 'name'>) => `${parent}\n${name.toLowerCase()}`
  const byPlace = new Map(there.filter(({ key }) => !isOurs(key)).map((one) => [placeOf(one), one]))
  /** What was matched is meanwhile known over there by the key of its own, and its parts name it as their whole by either. */
  const matched = new Map<string, string>()
  const steps = wanted.flatMap((one) => {
    const known = byKey.get(one.key)
    const put = known && names === 'there' ? { ...one, name: known.name } : one
    const within = matched.get(one.parent)
    const match =
      known ?? byPlace.get(placeOf(one)) ?? (within === undefined ? undefined : byPlace.get(placeOf({ ...one, parent: within }))) ?? null
    if (match && !known) matched.set(one.key, match.key)
    const differences = match ? equipmentDifferences(put, match) : []
    if (known && differences.length === 0) return []
    const facts = { known, match, differences, problem: null }
    return [planned('equipment', one.key, one.name, facts, { does: 'put equipment', id: match?.id ?? '', put })]
  })
  const kept = new Set(wanted.map(({ key }) => key))
  // parts go before what they are part of
  const gone = there.filter(({ key }) => isOurs(key) && !kept.has(key))
  return { steps, removals: partsFirst(gone).map((one) => removal('equipment', one)) }
}

const keyed = <T extends Entry>(there: readonly There<T>[]) => new Map(there.filter(({ key }) => isOurs(key)).map((one) => [one.key, one]))

const planned = (
  what: PlannedStep['what'],
  key: string,
  name: string,
  found: { known: unknown; match: unknown; differences: string[]; problem: string | null },
  step: ModelStep,
): PlannedStep => ({
  ...{ what, how: found.known ? 'change' : found.match ? 'match' : 'make', key, name },
  ...{ differences: found.differences, problem: found.problem, step },
})

const removal = (what: PlannedStep['what'], { key, name, id }: There<Entry>): PlannedStep => ({
  ...{ what, how: 'remove', key, name, differences: [], problem: null },
  step: what === 'class' ? { does: 'remove class', id } : { does: 'remove equipment', id },
})

const partsFirst = (all: readonly There<CloudEquipment>[]): There<CloudEquipment>[] => {
  const byKey = new Map(all.map((one) => [one.key, one]))
  const depth = (one: There<CloudEquipment>, seen = 0): number => {
    const whole = byKey.get(one.parent)
    return whole && seen < all.length ? depth(whole, seen + 1) + 1 : 0
  }
  return [...all].sort((a, b) => depth(b) - depth(a))
}

const quoted = (text: string) => (text === '' ? 'nothing' : `“${text}”`)

const lineDifferences = (put: object, there: object, lines: Record<string, string>): string[] =>
  Object.entries(lines).flatMap(([field, words]) => {
    const [is, was] = [(put as Record<string, unknown>)[field], (there as Record<string, unknown>)[field]]
    return is === was ? [] : [`${words}: ${quoted(String(is))}, there ${quoted(String(was))}`]
  })

const classDifferences = (put: CloudClass, there: CloudClass): string[] => [
  ...lineDifferences(put, there, { name: 'name', parent: 'made from', level: 'level', description: 'description' }),
  ...propertyDifferences(put.properties, there.properties),
]

const propertyLines = { title: 'title', role: 'role', type: 'type', unit: 'unit', description: 'description', value: 'value' }

const propertyDifferences = (put: readonly CloudProperty[], there: readonly CloudProperty[]): string[] => {
  const known = new Map(there.map((one) => [one.name, one]))
  const wanted = new Set(put.map(({ name }) => name))
  return [
    ...put.flatMap((one) => {
      const other = known.get(one.name)
      return other ? lineDifferences(one, other, propertyLines).map((text) => `${one.name}, ${text}`) : [`${one.name} is not there`]
    }),
    ...there.filter(({ name }) => !wanted.has(name)).map(({ name }) => `${name} is there only`),
  ]
}

const equipmentDifferences = (put: CloudEquipment, there: CloudEquipment): string[] => [
  ...lineDifferences(put, there, { name: 'name', parent: 'part of', class: 'class', level: 'level', description: 'description' }),
  ...entryDifferences(put.constants, there.constants, (name) => `constant ${name}`),
  ...entryDifferences(put.streams, there.streams, (name) => `stream of ${name}`),
  ...(relationsText(put) === relationsText(there) ? [] : ['relations']),
]

const relationsText = ({ relations }: CloudEquipment) =>
  relations
    .map(({ kind, to }) => `${kind} ${to}`)
    .sort()
    .join('\n')

const entryDifferences = (put: Record<string, unknown>, there: Record<string, unknown>, words: (name: string) => string): string[] =>
  [...new Set([...Object.keys(put), ...Object.keys(there)])].flatMap((name) =>
    put[name] === there[name] ? [] : [`${words(name)}: ${shown(put[name])}, there ${shown(there[name])}`],
  )

const shown = (value: unknown) => (value === undefined ? 'nothing' : String(value))

/** A class that others made is taken for ours only where its properties can be what ours are. */
const typeConflict = (put: CloudClass, there: CloudClass): string | null => {
  const known = new Map(there.properties.map((one) => [one.name, one]))
  for (const { name, type, role } of put.properties) {
    const other = known.get(name)
    if (other && (other.type !== type || other.role !== role))
      return `There is a class of this name that somebody else made, in which ${name} is ${asA(other)}; here it is ${asA({ type, role })}. Rename one of them.`
  }
  return null
}

const asA = ({ type, role }: Pick<CloudProperty, 'type' | 'role'>) => (role === 'constant' ? `a constant (${type})` : `a value (${type})`)
