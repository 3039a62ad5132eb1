import { changeConfiguration } from '#db/configuration'
import { removeRecording } from '#shared/api/history'
import { defineRoute } from '../../answers/route'
import { lockedRow, whoIs } from '../../store/configuration'
import { database } from '../../store/database'

export default defineRoute(removeRecording, async ({ event, params }) => {
  const { revision } = await changeConfiguration(database(), whoIs(event), 'Ended a recording', async (editor) => {
    const recording = await lockedRow(editor, 'recording', params.id)
    editor.what = `Ended recording “${recording.pattern}”`
    await editor.remove('recording', [recording])
  })
  return { removed: params.id, revision }
})
