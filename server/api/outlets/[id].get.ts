import { asOutlet } from '#db/rows'
import { idOf, rowOf } from '../../lib/configuration'
import { defineRoute } from '../../lib/refusal'

export default defineRoute('look', async (event) => asOutlet(await rowOf('outlet', idOf(event))))
