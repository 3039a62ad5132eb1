import { idOf, rowOf } from '../../store/configuration'
import { shownOutlet } from '../../outlets/outlets'
import { defineRoute } from '../../answers/refusal'

export default defineRoute('look', async (event) => shownOutlet(await rowOf('outlet', idOf(event))))
