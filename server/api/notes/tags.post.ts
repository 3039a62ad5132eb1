import { noteTags } from '#shared/api/notes'
import { defineRoute } from '../../answers/route'
import { notesOfTags } from '../../worker/notesOfTags'

export default defineRoute(noteTags, ({ body: { ids } }) => notesOfTags(ids))
