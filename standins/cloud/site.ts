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

interface OpenParcel {
  taken: Set<number>
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
  /** Parcels that were taken, wholly (null) or in part. */
  private parcels = new Map<string, OpenParcel | null>()
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

  take(parcels: readonly Fields[], clock: number, half: 'later' | 'for good' | null) {
    const refused = new Map<string, { key: string; count: number; why: string; later: boolean }>()
    const before = this.values
    for (const parcel of parcels) this.takeParcel(parcel, clock, half, refused)
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
    const [key, name, parent] = [textOf(put.key), textOf(put.name), textOf(put.parent)]
    if (key === '' || name === '') return 'A class has a key and a name.'
    const known = this.classes.get(id) ?? byKey(this.classes, key)
    if (id !== '' && !known) return 'There is no class of this id.'
    if (parent !== '' && !byKey(this.classes, parent)) return 'The class that it is made from is not there.'
    const other = [...this.classes.values()].find((one) => one !== known && one.name.toLowerCase() === name.toLowerCase())
    if (other) return `There is a class “${name}” already.`
    const properties = (Array.isArray(put.properties) ? put.properties : []).map(propertyThere)
    const from = known?.key ?? key
    this.classes.set(known?.id ?? this.newId('c'), {
      ...{ id: known?.id ?? this.lastId, key, name, parent, properties },
      ...{ level: textOf(put.level), description: textOf(put.description) },
    })
    if (from !== key) {
      for (const one of this.classes.values()) if (one.parent === from) one.parent = key
      for (const one of this.equipment.values()) if (one.class === from) one.class = key
    }
    return null
  }

  private putEquipment(id: string, put: Fields): string | null {
    const [key, name, parent, ofClass] = [textOf(put.key), textOf(put.name), textOf(put.parent), textOf(put.class)]
    if (key === '' || name === '') return 'Equipment has a key and a name.'
    const known = this.equipment.get(id) ?? byKey(this.equipment, key)
    if (id !== '' && !known) return 'There is no equipment of this id.'
    if (ofClass !== '' && !byKey(this.classes, ofClass)) return 'Its class is not there.'
    if (parent !== '' && !byKey(this.equipment, parent)) return 'What it is part of is not there.'
    const from = known?.key ?? key
    const relations = (Array.isArray(put.relations) ? put.relations : []).map((one) => ({
      kind: textOf(fieldsOf(one).kind),
      to: textOf(fieldsOf(one).to),
    }))
    const streams = Object.fromEntries(Object.entries(fieldsOf(put.streams)).map(([property, stream]) => [property, textOf(stream)]))
    this.equipment.set(known?.id ?? this.newId('e'), {
      ...{
        id: known?.id ?? this.lastId,
        key,
        name,
        parent,
        class: ofClass,
        level: textOf(put.level),
        description: textOf(put.description),
      },
      ...{ constants: fieldsOf(put.constants), streams, relations },
    })
    if (from !== key) for (const one of this.equipment.values()) if (one.parent === from) one.parent = key
    return null
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

  private lastId = ''
  private newId(kind: string): string {
    return (this.lastId = `${kind}-${randomUUID().slice(0, 8)}`)
  }

  private takeParcel(
    parcel: Fields,
    clock: number,
    half: 'later' | 'for good' | null,
    refused: Map<string, { key: string; count: number; why: string; later: boolean }>,
  ) {
    const id = textOf(parcel.id)
    const before = this.parcels.get(id)
    if (before === null) return
    const open = before ?? { taken: new Set<number>() }
    let index = -1
    let waits = false
    for (const one of Array.isArray(parcel.streams) ? parcel.streams.map(fieldsOf) : []) {
      const stream = this.streamOf(one)
      for (const sample of Array.isArray(one.samples) ? (one.samples as unknown[]) : []) {
        index++
        if (open.taken.has(index)) continue
        const problem =
          half && index % 2 === 1
            ? { why: 'The store takes no more of this.', later: half === 'later' }
            : this.problemIn(stream, sample, clock)
        if (problem) {
          const key = `${stream.key} ${problem.later} ${problem.why}`
          const known = refused.get(key)
          if (known) known.count++
          else refused.set(key, { key: stream.key, count: 1, ...problem })
        }
        if (problem?.later) waits = true
        else open.taken.add(index)
        if (problem && !problem.later) {
          this.refused++
          this.noteRefused(stream.path, problem.why)
        }
        if (!problem) this.keep(stream, sample as [number, unknown, string?])
      }
    }
    this.parcels.set(id, waits ? open : null)
    if (this.parcels.size > mostParcels) this.parcels.delete(this.parcels.keys().next().value!)
  }

  private streamOf({ key, path, type, unit }: Fields): StreamThere {
    const known = this.streams.get(textOf(key))
    const facts = { key: textOf(key), path: textOf(path), type: textOf(type), unit: textOf(unit) }
    if (known) return Object.assign(known, facts)
    const stream = { ...facts, count: 0, recent: [] }
    this.streams.set(stream.key, stream)
    return stream
  }

  private problemIn({ type }: StreamThere, sample: unknown, clock: number): { why: string; later: boolean } | null {
    if (!Array.isArray(sample) || typeof sample[0] !== 'number') return { why: 'A sample is [time, value, quality].', later: false }
    const [at, value] = sample as [number, unknown]
    if (at < earliest) return { why: 'Its time lies before the year 2000.', later: false }
    if (at > clock + mostAheadMs) return { why: 'Its time lies in the future.', later: true }
    if (value === null) return null
    return fits(type, value) ? null : { why: `${JSON.stringify(value)} is no ${type}.`, later: false }
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
