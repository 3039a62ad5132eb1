import { idOf, rowOf } from '../../lib/configuration'
import { shownLink } from '../../lib/links'
import { defineRoute } from '../../lib/refusal'

export default defineRoute('look', async (event) => shownLink(await rowOf('link', idOf(event))))
