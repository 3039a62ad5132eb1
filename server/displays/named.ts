import { placesOf } from '#core/displays/names'
import { Model } from '#core/equipment/model'
import { passedOnBy } from '#core/tags/scaling'
import { nameOf } from '#core/tags/path'
import { thingsOf } from '#db/rows'
import type { ShownTag } from '#shared/displays'
import { isFrom } from '#shared/sources/registry'
import type { Tag } from '#shared/tags'
import { allClasses } from '../equipment/model'
import { database } from '../store/database'

/** Finds what panes name, each in the closest place where there is something. @param equipment for which; empty: for none */
export const findTags = async (named: readonly string[], equipment: string): Promise<ShownTag[]> => {
  const wanted = [...new Set(named)]
  const paths = wanted.flatMap((name) => placesOf(name, equipment))
  const rows = paths.length === 0 ? [] : await database().selectFrom('tag').selectAll().where('path', 'in', paths).execute()
  const tags = new Map(thingsOf('tag', rows).map((tag) => [tag.path, tag]))
  const titles = await titlesOf([...tags.values()])
  return wanted.map((name) => {
    const tag = placesOf(name, equipment).flatMap((path) => tags.get(path) ?? [])[0]
    if (!tag) return { named: name, id: null, path: '', type: 'float64', unit: '', title: nameOf(name), names: [] }
    const { id, path, unit, names } = tag
    return { named: name, id, path, type: passedOnBy(tag), unit, title: titles.get(id) ?? nameOf(path), names }
  })
}

/** What properties are called by people, as their classes say. */
const titlesOf = async (tags: readonly Tag[]): Promise<ReadonlyMap<number, string>> => {
  const properties = tags.flatMap((tag) => (isFrom('property', tag) ? [tag] : []))
  if (properties.length === 0) return new Map()
  const ids = properties.map(({ source }) => source.equipmentId)
  const equipment = await database().selectFrom('equipment').select(['id', 'class']).where('id', 'in', ids).execute()
  const classOf = new Map(equipment.map((one) => [one.id, one.class]))
  const model = new Model(await allClasses(database()), [])
  return new Map(
    properties.map(({ id, source }) => {
      const all = model.propertiesOf(classOf.get(source.equipmentId) ?? '')
      return [id, all.find(({ name }) => name === source.property)?.title || source.property]
    }),
  )
}
