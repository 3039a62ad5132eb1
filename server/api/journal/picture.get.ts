import { journalPicture } from '#shared/api/journal'
import { defineRoute } from '../../answers/route'
import { journalPicture as picture } from '../../journal/entries'

export default defineRoute(journalPicture, ({ query }) => picture(query))
