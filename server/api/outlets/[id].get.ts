import { idOf, rowOf } from '../../lib/configuration'
import { shownOutlet } from '../../lib/outlets'
import { defineRoute } from '../../lib/refusal'

export default defineRoute('look', async (event) => shownOutlet(await rowOf('outlet', idOf(event))))
