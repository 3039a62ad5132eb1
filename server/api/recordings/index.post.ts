import { changeConfiguration } from '#db/configuration'
import { makeRecording } from '#shared/api/history'
import { defineRoute } from '../../answers/route'
import { shownRecording } from '../../history/recordings'
import { namesTaken, whoIs } from '../../store/configuration'
import { database } from '../../store/database'

export default defineRoute(makeRecording, async ({ event, body: recording }) => {
  const change = changeConfiguration(database(), whoIs(event), `Made recording “${recording.pattern}”`, (editor) =>
    editor.insert('recording', [recording]),
  )
  const { result } = await namesTaken('recording', recording.pattern, 'pattern', change)
  return shownRecording(result[0]!)
})
