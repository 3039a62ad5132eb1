import { thingOf } from '#db/rows'
import { idOf, rowOf } from '../../store/configuration'
import { defineRoute } from '../../answers/refusal'

export default defineRoute('look', async (event) => thingOf('tag', await rowOf('tag', idOf(event))))
