import { asTag } from '#db/rows'
import { idOf, rowOf } from '../../lib/configuration'
import { defineRoute } from '../../lib/refusal'

export default defineRoute('look', async (event) => asTag(await rowOf('tag', idOf(event))))
