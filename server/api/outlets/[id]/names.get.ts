import { idOf, rowOf } from '../../../store/configuration'
import { listedNames } from '../../../outlets/names'
import { shownOutlet } from '../../../outlets/outlets'
import { defineRoute } from '../../../answers/refusal'

/** The short name of every folder and tag that the outlet shows. */
export default defineRoute('look', async (event) => listedNames(shownOutlet(await rowOf('outlet', idOf(event)))))
