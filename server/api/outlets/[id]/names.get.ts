import { idOf, rowOf } from '../../../lib/configuration'
import { listedNames } from '../../../lib/names'
import { shownOutlet } from '../../../lib/outlets'
import { defineRoute } from '../../../lib/refusal'

/** The short name of every folder and tag that the outlet shows. */
export default defineRoute('look', async (event) => listedNames(shownOutlet(await rowOf('outlet', idOf(event)))))
