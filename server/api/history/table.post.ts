import { bringPast } from '#shared/api/history'
import { defineRoute } from '../../answers/route'
import { bringTable } from '../../history/bringing'

export default defineRoute(bringPast, ({ body }) => bringTable(body as Uint8Array))
