import { previewNotes } from '#shared/api/notes'
import { defineRoute } from '../../answers/route'
import { tagWorker } from '../../worker/tagWorker'

export default defineRoute(previewNotes, ({ body: { tag, id } }) => tagWorker.call((notes) => notes.preview(tag, id)))
