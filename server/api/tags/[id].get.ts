import { thingOf } from '#db/rows'
import { idOf, rowOf } from '../../lib/configuration'
import { defineRoute } from '../../lib/refusal'

export default defineRoute('look', async (event) => thingOf('tag', await rowOf('tag', idOf(event))))
