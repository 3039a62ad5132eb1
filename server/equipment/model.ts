import { sql, type Kysely } from 'kysely'
import { propertyPlan, type KnownProperty, type PropertyPlan } from '#core/equipment/follow'
import { Model } from '#core/equipment/model'
import type { Editor, Row } from '#db/editor'
import { readable, thingOf, thingsOf } from '#db/rows'
import type { Database } from '#db/tables'
import type { Equipment, EquipmentClass } from '#shared/equipment/equipment'
import { decidedFields, tagOfProperty } from '#shared/equipment/tags'
import { isFrom } from '#shared/sources/registry'
import { renameEverywhere } from '../tags/renaming'

type Reading = Pick<Kysely<Database>, 'selectFrom'>

export const shownClass = (row: Row<'equipmentClass'>): EquipmentClass => thingOf('equipmentClass', row)
export const shownEquipmentRow = (row: Row<'equipment'>): Equipment => thingOf('equipment', row)

export const allClasses = async (db: Reading): Promise<EquipmentClass[]> =>
  readable(await db.selectFrom('equipmentClass').selectAll().execute(), shownClass)
export const allEquipment = async (db: Reading): Promise<Equipment[]> =>
  readable(await db.selectFrom('equipment').selectAll().orderBy('path').execute(), shownEquipmentRow)

/** All of it as it is now. */
export const modelNow = async (db: Reading): Promise<Model> => new Model(await allClasses(db), await allEquipment(db))

/** The tags that equipment has. @param of only of these pieces */
export const propertiesNow = async (db: Reading, of?: readonly number[]): Promise<KnownProperty[]> => {
  const all = db.selectFrom('tag').selectAll().where('source', '=', 'property')
  const rows = await (of ? all.where(sql<boolean>`equipment_id = any(${[...of]}::int[])`) : all).execute()
  return thingsOf('tag', rows).flatMap((tag): KnownProperty[] => {
    if (!isFrom('property', tag)) return []
    const { equipmentId, property, made } = tag.source
    const { id, path, unit, description, limits } = tag
    return [{ id, path, unit, description, limits, equipmentId, property, made, type: tag.type as KnownProperty['type'] }]
  })
}

/** More rounds than that, and bindings would chase each other. */
const mostRounds = 4

/** Makes, changes and removes tags so that they are what equipment comes to; whatever names them follows. */
export const followTags = async (editor: Editor): Promise<PropertyPlan> => {
  await sql`set constraints all deferred`.execute(editor.db)
  let first: PropertyPlan | null = null
  for (let round = 0; round < mostRounds; round++) {
    const known = await propertiesNow(editor.db)
    const plan = propertyPlan(await modelNow(editor.db), known)
    first ??= plan
    if (plan.make.length + plan.change.length + plan.remove.length === 0) break
    await editor.remove('tag', plan.remove)
    await editor.updateUnseen(
      'tag',
      plan.change.map((tag) => ({ id: tag.id, ...decidedFields(tag) })),
    )
    await editor.insertUnseen('tag', plan.make.map(tagOfProperty))
    const before = new Map(known.map(({ id, path }) => [id, path]))
    const moved = new Map(plan.change.map(({ id, path }) => [before.get(id)!, path] as const).filter(([from, to]) => from !== to))
    if (moved.size === 0) break
    await renameEverywhere(editor, (path) => moved.get(path) ?? path)
  }
  return first!
}
