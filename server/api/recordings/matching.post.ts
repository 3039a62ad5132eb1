import { matchRecording } from '#shared/api/history'
import { defineRoute } from '../../answers/route'
import { matching } from '../../history/recordings'

export default defineRoute(matchRecording, ({ body: { pattern } }) => matching(pattern))
