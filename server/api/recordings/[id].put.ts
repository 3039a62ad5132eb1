import { changeConfiguration } from '#db/configuration'
import { changeRecording } from '#shared/api/history'
import { defineRoute } from '../../answers/route'
import { shownRecording } from '../../history/recordings'
import { lockedRow, namesTaken, requireRevision, whoIs } from '../../store/configuration'
import { database } from '../../store/database'

export default defineRoute(changeRecording, async ({ event, params, body: { revision, recording } }) => {
  const change = changeConfiguration(database(), whoIs(event), `Changed recording “${recording.pattern}”`, async (editor) => {
    const before = await lockedRow(editor, 'recording', params.id)
    await requireRevision(editor, 'recording', before, before.pattern, revision, shownRecording(before))
    return editor.update('recording', before, recording)
  })
  const { result } = await namesTaken('recording', recording.pattern, 'pattern', change)
  return shownRecording(result)
})
