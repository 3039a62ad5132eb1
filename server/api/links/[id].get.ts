import { idOf, rowOf } from '../../store/configuration'
import { shownLink } from '../../links/links'
import { defineRoute } from '../../answers/refusal'

export default defineRoute('look', async (event) => shownLink(await rowOf('link', idOf(event))))
