import { setResponseHeaders } from 'h3'
import { writeEquipment } from '#core/equipment/table'
import { equipmentCsv } from '#shared/api/equipment'
import { defineRoute } from '../../answers/route'
import { modelNow } from '../../equipment/model'
import { database } from '../../store/database'

export default defineRoute(equipmentCsv, async ({ event }) => {
  setResponseHeaders(event, { 'content-type': 'text/csv; charset=utf-8', 'content-disposition': 'attachment; filename="equipment.csv"' })
  return writeEquipment(await modelNow(database()))
})
