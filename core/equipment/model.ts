import { cycleOf } from '../formulas/graph'
import { folderOf } from '../tags/path'
import type { ClassDraft, EquipmentDraft, Level, Property } from './settings'

export type EquipmentOf = EquipmentDraft & { id: number }

/** All classes and all equipment, with what follows from how they hang together. */
export class Model {
  readonly classes: ReadonlyMap<string, ClassDraft>
  readonly equipment: ReadonlyMap<number, EquipmentOf>
  readonly byPath: ReadonlyMap<string, EquipmentOf>
  private inherited = new Map<string, readonly Property[]>()
  private childrenOf = new Map<string, EquipmentOf[]>()
  private inputOf: Map<string, EquipmentOf[]> | null = null
  private alikeNamed: Map<string, EquipmentOf[]> | null = null

  constructor(classes: Iterable<ClassDraft>, equipment: Iterable<EquipmentOf>) {
    this.classes = new Map([...classes].map((one) => [one.name, one]))
    this.equipment = new Map([...equipment].map((one) => [one.id, one]))
    this.byPath = new Map([...this.equipment.values()].map((one) => [one.path, one]))
    for (const one of this.equipment.values()) {
      const siblings = this.childrenOf.get(folderOf(one.path))
      if (siblings) siblings.push(one)
      else this.childrenOf.set(folderOf(one.path), [one])
    }
  }

  /** The class and those that it is made from, nearest first. A class that comes to itself ends there. */
  lineOf(name: string): ClassDraft[] {
    const line: ClassDraft[] = []
    for (let next = name; next !== '';) {
      const one = this.classes.get(next)
      if (!one || line.includes(one)) return line
      line.push(one)
      next = one.parent
    }
    return line
  }

  /** Whether a class is another one, or made from it. */
  isKindOf(name: string, other: string): boolean {
    return this.lineOf(name).some((one) => one.name === other)
  }

  /** Everything that equipment of a class has: what the class itself says takes the place of what it inherits by the same name. */
  propertiesOf(name: string): readonly Property[] {
    const known = this.inherited.get(name)
    if (known) return known
    const properties = new Map<string, Property>()
    for (const one of this.lineOf(name).reverse()) for (const property of one.properties) properties.set(property.name, property)
    const all = [...properties.values()]
    this.inherited.set(name, all)
    return all
  }

  /** What lies directly in a path; empty: what is part of nothing. */
  children(path: string): readonly EquipmentOf[] {
    return this.childrenOf.get(path) ?? []
  }

  /** Equipment that a tag is an input of. */
  boundTo(tag: string): readonly EquipmentOf[] {
    this.inputOf ??= indexed(this.equipment.values(), ({ bindings }) => Object.values(bindings))
    return this.inputOf.get(tag) ?? []
  }

  /** Equipment whose path differs in nothing but capitals. */
  namedLike(path: string): readonly EquipmentOf[] {
    this.alikeNamed ??= indexed(this.equipment.values(), (one) => [one.path.toLowerCase()])
    return this.alikeNamed.get(path.toLowerCase()) ?? []
  }

  /** All below, level by level. */
  below(path: string): EquipmentOf[] {
    const all: EquipmentOf[] = []
    let next = this.children(path)
    while (next.length > 0) {
      all.push(...next)
      next = next.flatMap((one) => this.children(one.path))
    }
    return all
  }

  levelOf({ level, class: name }: Pick<EquipmentDraft, 'level' | 'class'>): Level {
    return level ?? this.classes.get(name)?.level ?? 'area'
  }
}

const indexed = (all: Iterable<EquipmentOf>, keysOf: (one: EquipmentOf) => readonly string[]) => {
  const index = new Map<string, EquipmentOf[]>()
  for (const one of all)
    for (const key of keysOf(one)) {
      const known = index.get(key)
      if (known) known.push(one)
      else index.set(key, [one])
    }
  return index
}

/** The names that formulas of these properties lead in a circle; null: none do. @param reads what each formula reads */
export const circleAmong = (reads: ReadonlyMap<string, readonly string[]>): string[] | null => {
  for (const name of reads.keys()) {
    const way = cycleOf(name, reads)
    if (way) return way
  }
  return null
}
