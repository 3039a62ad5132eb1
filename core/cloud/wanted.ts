import { folderOf } from '../tags/path'
import { typeOfProperty } from '../equipment/made'
import type { EquipmentOf, Model } from '../equipment/model'
import type { Property } from '../equipment/settings'
import type { CloudClass, CloudEquipment, CloudProperty } from './entries'

/** The model as it is to be over there. */
export interface WantedModel {
  /** Parents before those that are made from them. */
  classes: CloudClass[]
  /** Wholes before their parts. */
  equipment: CloudEquipment[]
  /** Where each piece is here, by its key. */
  paths: Map<string, string>
}

interface Site {
  model: Model
  /** The ids of classes, by their names. */
  classIds: ReadonlyMap<string, number>
  /** Paths of which that equipment and all below it goes there; an empty one: all. */
  areas: readonly string[]
  /** The key of the stream of a tag; null: it goes not there. */
  streamOf(path: string): string | null
}

export const classKey = (id: number) => `class-${id}`
export const equipmentKey = (id: number) => `equipment-${id}`
export const streamKey = (tagId: number) => `tag-${tagId}`

/** Whether equipment, or a property of it, lies in one of the areas. */
export const isInAreas = (path: string, areas: readonly string[]) =>
  areas.some((area) => area === '' || path === area || path.startsWith(`${area}/`))

/** What of a site goes to a platform: the equipment of some areas, and the classes that it needs. */
export const wantedModel = (site: Site): WantedModel => {
  const chosen = [...site.model.equipment.values()]
    .filter(({ path }) => isInAreas(path, site.areas))
    .sort((a, b) => depthOf(a.path) - depthOf(b.path) || (a.path < b.path ? -1 : 1))
  const byPath = new Map(chosen.map((one) => [one.path, one]))
  return {
    classes: neededClasses(site, chosen),
    equipment: chosen.map((one) => equipmentEntry(site, one, byPath)),
    paths: new Map(chosen.map(({ id, path }) => [equipmentKey(id), path])),
  }
}

const depthOf = (path: string) => path.split('/').length

const keyOfClass = ({ classIds }: Site, name: string) => {
  const id = classIds.get(name)
  return id === undefined ? '' : classKey(id)
}

const neededClasses = (site: Site, chosen: readonly EquipmentOf[]): CloudClass[] => {
  const names = new Set<string>()
  // of a line, the one that all the others are made from comes first
  for (const one of chosen) for (const { name } of site.model.lineOf(one.class).reverse()) names.add(name)
  return [...names].map((name) => {
    const { parent, level, description, properties } = site.model.classes.get(name)!
    const all = site.model.propertiesOf(name)
    return {
      ...{ key: keyOfClass(site, name), name, parent: keyOfClass(site, parent), level, description },
      properties: properties.map((property) => propertyEntry(property, all)),
    }
  })
}

const propertyEntry = (property: Property, all: readonly Property[]): CloudProperty => {
  const { name, title, unit, description, made } = property
  const isConstant = made.kind === 'constant'
  return {
    ...{ name, title, role: isConstant ? 'constant' : 'value', type: typeOfProperty(property, all), unit, description },
    value: isConstant ? made.value : null,
  }
}

const equipmentEntry = (site: Site, equipment: EquipmentOf, chosen: ReadonlyMap<string, EquipmentOf>): CloudEquipment => {
  const { id, path, description, constants, relations } = equipment
  const whole = nearestWhole(path, chosen)
  const properties = site.model.propertiesOf(equipment.class)
  const has = new Set(properties.filter(({ made }) => made.kind === 'constant').map(({ name }) => name))
  return {
    key: equipmentKey(id),
    name: whole ? path.slice(whole.path.length + 1) : path,
    parent: whole ? equipmentKey(whole.id) : '',
    class: keyOfClass(site, equipment.class),
    level: site.model.levelOf(equipment),
    description,
    constants: Object.fromEntries(Object.entries(constants).filter(([name]) => has.has(name))),
    streams: Object.fromEntries(
      properties.flatMap(({ name, made }) => {
        const key = made.kind === 'constant' ? null : site.streamOf(`${path}/${name}`)
        return key === null ? [] : [[name, key]]
      }),
    ),
    relations: relations.flatMap(({ kind, to }) => {
      const other = chosen.get(to)
      return other ? [{ kind, to: equipmentKey(other.id) }] : []
    }),
  }
}

/** Folders in between that are no equipment are not there over there either. */
const nearestWhole = (path: string, chosen: ReadonlyMap<string, EquipmentOf>): EquipmentOf | null => {
  for (let at = folderOf(path); at !== ''; at = folderOf(at)) {
    const found = chosen.get(at)
    if (found) return found
  }
  return null
}
