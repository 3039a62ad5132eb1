import { propertyTags } from '#core/equipment/made'
import { showEquipment } from '#shared/api/equipment'
import { defineRoute } from '../../answers/route'
import { modelNow, shownEquipmentRow } from '../../equipment/model'
import { rowOf } from '../../store/configuration'
import { database } from '../../store/database'

export default defineRoute(showEquipment, async ({ params }) => {
  const equipment = shownEquipmentRow(await rowOf('equipment', params.id))
  const model = await modelNow(database())
  const rows = await database().selectFrom('tag').select(['id', 'path']).where('equipment_id', '=', equipment.id).execute()
  const ids = new Map(rows.map(({ id, path }) => [path, id]))
  const line = model.lineOf(equipment.class)
  const tags = propertyTags(model, equipment)
  const properties = model.propertiesOf(equipment.class).map((property, i) => ({
    ...property,
    ...{ tagId: ids.get(tags[i]!.path) ?? null, path: tags[i]!.path, of: tags[i]!.made, type: tags[i]!.type },
    from: line.find((one) => one.properties.some(({ name }) => name === property.name))?.name ?? equipment.class,
  }))
  return { ...equipment, properties }
})
