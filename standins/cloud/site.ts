import { randomUUID } from 'node:crypto'

type Fields = Record<string, unknown>

export interface ClassThere {
  id: string
  key: string
  name: string
  parent: string
  level: string
  description: string
  properties: { name: string; role: string; type: string; unit: string; title: string; description: string; value: unknown }[]
}

export interface EquipmentThere {
  id: string
  key: string
  name: string
  parent: string
  class: string
  level: string
  description: string
  constants: Fields
  streams: Record<string, string>
  relations: { kind: string; to: string }[]
}

export interface StreamThere {
  key: string
  path: string
  type: string
  unit: string
  count: number
  /** The latest, the oldest first: time, value, quality. */
  recent: [number, unknown, string][]
}

interface Problem {
  why: string
  later: boolean
}

/** Of which every second value is not taken, as a fault has it. */
type Half = 'later' | 'for good' | null

interface Taking {
  clock: number
  half: Half
  refused: Map<string, Problem & { key: string; count: number }>
}

const mostRecent = 300
const mostParcels = 50_000
const mostAheadMs = 300_000
const earliest = Date.UTC(2000, 0)

const textOf = (value: unknown, fallback = ''): string => (typeof value === 'string' ? value : fallback)
const fieldsOf = (value: unknown): Fields => (typeof value === 'object' && value !== null && !Array.isArray(value) ? (value as Fields) : {})

/** What one site has over there. */
export class Site {
  readonly classes = new Map<string, ClassThere>()
  readonly equipment = new Map<string, EquipmentThere>()
  readonly streams = new Map<string, StreamThere>()
  /** Parcels that were taken, wholly (null) or in part: then, which of their values. */
  private parcels = new Map<string, Set<number> | null>()
  values = 0
  refused = 0
  lastRefused: { path: string; why: string; at: number }[] = []

  model() {
    return { classes: [...this.classes.values()], equipment: [...this.equipment.values()] }
  }

  /** Keys of streams that no equipment has. */
  unbound(): StreamThere[] {
    const bound = new Set([...this.equipment.values()].flatMap(({ streams }) => Object.values(streams)))
    return [...this.streams.values()].filter(({ key }) => !bound.has(key))
  }

  carryOut(step: Fields): { ok: boolean; why?: string } {
    const problem = this.doStep(step)
    if (problem === null) return { ok: true }
    this.refused++
    this.noteRefused(textOf(fieldsOf(step.put).name, 'a step'), problem)
    return { ok: false, why: problem }
  }

  take(parcels: readonly Fields[], clock: number, half: Half) {
    const refused: Taking['refused'] = new Map()
    const before = this.values
    for (const parcel of parcels) this.takeParcel(parcel, { clock, half, refused })
    return { taken: this.values - before, refused: [...refused.values()] }
  }

  rename(id: string, name: string): boolean {
    const entry = this.classes.get(id) ?? this.equipment.get(id)
    if (entry) entry.name = name
    return entry !== undefined
  }

  private doStep({ does, id, put }: Fields): string | null {
    if (does === 'put class') return this.putClass(textOf(id), fieldsOf(put))
    if (does === 'put equipment') return this.putEquipment(textOf(id), fieldsOf(put))
    if (does === 'remove class') return this.removeClass(textOf(id))
    if (does === 'remove equipment') return this.removeEquipment(textOf(id))
    return 'There is no such step.'
  }

  private putClass(id: string, put: Fields): string | null {
    const entry = { ...entryFrom(put), properties: listOf(put.properties).map(propertyThere) }
    const known = this.classes.get(id) ?? byKey(this.classes, entry.key)
    const problem = problemOf('class', entry, id, known) ?? this.parentProblem(this.classes, entry.parent, 'The class that it is made from')
    if (problem) return problem
    const other = [...this.classes.values()].find((one) => one !== known && one.name.toLowerCase() === entry.name.toLowerCase())
    if (other) return `There is a class “${entry.name}” already.`
    const now = { ...entry, id: known?.id ?? newId('c') }
    this.classes.set(now.id, now)
    if (known) this.rekey(known.key, now.key, [...this.classes.values()], 'parent', [...this.equipment.values()], 'class')
    return null
  }

  private putEquipment(id: string, put: Fields): string | null {
    const entry = { ...entryFrom(put), class: textOf(put.class), ...partsOf(put) }
    const known = this.equipment.get(id) ?? byKey(this.equipment, entry.key)
    const problem =
      problemOf('equipment', entry, id, known) ??
      this.parentProblem(this.classes, entry.class, 'Its class') ??
      this.parentProblem(this.equipment, entry.parent, 'What it is part of')
    if (problem) return problem
    const now = { ...entry, id: known?.id ?? newId('e') }
    this.equipment.set(now.id, now)
    if (known) this.rekey(known.key, now.key, [...this.equipment.values()], 'parent', [], 'class')
    return null
  }

  private parentProblem(all: Map<string, { key: string }>, key: string, what: string): string | null {
    return key === '' || byKey(all, key) ? null : `${what} is not there.`
  }

  /** Whoever named an entry by its old key names it by the new one. */
  private rekey<A extends string, B extends string>(
    from: string,
    to: string,
    some: Record<A, string>[],
    a: A,
    others: Record<B, string>[],
    b: B,
  ) {
    if (from === to) return
    for (const one of some) if (one[a] === from) (one as Record<string, string>)[a] = to
    for (const one of others) if (one[b] === from) (one as Record<string, string>)[b] = to
  }

  private removeClass(id: string): string | null {
    const known = this.classes.get(id)
    if (!known) return 'It is not there.'
    if ([...this.equipment.values()].some((one) => one.class === known.key)) return 'There is equipment of this class.'
    if ([...this.classes.values()].some((one) => one.parent === known.key)) return 'There are classes made from it.'
    this.classes.delete(id)
    return null
  }

  private removeEquipment(id: string): string | null {
    const known = this.equipment.get(id)
    if (!known) return 'It is not there.'
    if ([...this.equipment.values()].some((one) => one.parent === known.key)) return 'There is equipment that is part of it.'
    this.equipment.delete(id)
    return null
  }

  private takeParcel(parcel: Fields, { clock, half, refused }: Taking) {
    const id = textOf(parcel.id)
    const before = this.parcels.get(id)
    if (before === null) return
    const taken = before ?? new Set<number>()
    let [index, waits] = [-1, false]
    for (const one of listOf(parcel.streams).map(fieldsOf)) {
      const stream = this.streamOf(one)
      for (const sample of listOf(one.samples)) {
        index++
        if (taken.has(index)) continue
        const problem = halfProblem(half, index) ?? problemIn(stream, sample, clock)
        if (problem?.later) waits = true
        else taken.add(index)
        if (problem) this.refuse(stream, problem, refused)
        else this.keep(stream, sample as [number, unknown, string?])
      }
    }
    this.parcels.set(id, waits ? taken : null)
    if (this.parcels.size > mostParcels) this.parcels.delete(this.parcels.keys().next().value!)
  }

  private refuse({ key, path }: StreamThere, problem: Problem, refused: Taking['refused']) {
    const known = refused.get(`${key} ${problem.why}`)
    if (known) known.count++
    else refused.set(`${key} ${problem.why}`, { key, count: 1, ...problem })
    if (problem.later) return
    this.refused++
    this.noteRefused(path, problem.why)
  }

  private streamOf({ key, path, type, unit }: Fields): StreamThere {
    const known = this.streams.get(textOf(key))
    const facts = { key: textOf(key), path: textOf(path), type: textOf(type), unit: textOf(unit) }
    if (known) return Object.assign(known, facts)
    const stream = { ...facts, count: 0, recent: [] }
    this.streams.set(stream.key, stream)
    return stream
  }

  private keep(stream: StreamThere, [at, value, quality = 'Good']: [number, unknown, string?]) {
    stream.count++
    this.values++
    stream.recent.push([at, value, quality])
    if (stream.recent.length > mostRecent) stream.recent.shift()
  }

  private noteRefused(path: string, why: string) {
    this.lastRefused.unshift({ path, why, at: Date.now() })
    this.lastRefused.length = Math.min(this.lastRefused.length, 50)
  }
}

const listOf = (value: unknown): unknown[] => (Array.isArray(value) ? (value as unknown[]) : [])
const newId = (kind: string) => `${kind}-${randomUUID().slice(0, 8)}`

const entryFrom = (put: Fields) => ({
  ...{ key: textOf(put.key), name: textOf(put.name), parent: textOf(put.parent) },
  ...{ level: textOf(put.level), description: textOf(put.description) },
})

const partsOf = (put: Fields) => ({
  constants: fieldsOf(put.constants),
  streams: Object.fromEntries(Object.entries(fieldsOf(put.streams)).map(([property, stream]) => [property, textOf(stream)])),
  relations: listOf(put.relations).map((one) => ({ kind: textOf(fieldsOf(one).kind), to: textOf(fieldsOf(one).to) })),
})

const problemOf = (what: string, { key, name }: { key: string; name: string }, id: string, known: unknown): string | null => {
  if (key === '' || name === '') return `A ${what} has a key and a name.`
  return id !== '' && !known ? `There is no ${what} of this id.` : null
}

const halfProblem = (half: Half, index: number): Problem | null =>
  half && index % 2 === 1 ? { why: 'The store takes no more of this.', later: half === 'later' } : null

const problemIn = ({ type }: StreamThere, sample: unknown, clock: number): Problem | null => {
  if (!Array.isArray(sample) || typeof sample[0] !== 'number') return { why: 'A sample is [time, value, quality].', later: false }
  const [at, value] = sample as [number, unknown]
  if (at < earliest) return { why: 'Its time lies before the year 2000.', later: false }
  if (at > clock + mostAheadMs) return { why: 'Its time lies in the future.', later: true }
  if (value === null) return null
  return fits(type, value) ? null : { why: `${JSON.stringify(value)} is no ${type}.`, later: false }
}

const byKey = <T extends { key: string }>(all: Map<string, T>, key: string): T | undefined =>
  [...all.values()].find((one) => one.key === key)

const propertyThere = (given: unknown): ClassThere['properties'][number] => {
  const { name, role, type, unit, title, description, value = null } = fieldsOf(given)
  const texts = { name: textOf(name), role: textOf(role), type: textOf(type), unit: textOf(unit), title: textOf(title) }
  return { ...texts, description: textOf(description), value }
}

const fits = (type: string, value: unknown): boolean => {
  if (type.endsWith('[]')) return Array.isArray(value) && value.every((one) => one === null || fits(type.slice(0, -2), one))
  if (type === 'bool') return typeof value === 'boolean'
  if (type === 'string' || type === 'datetime') return typeof value === 'string'
  if (type === 'int64' || type === 'uint64') return typeof value === 'string' && /^-?\d+$/.test(value)
  return typeof value === 'number'
}
