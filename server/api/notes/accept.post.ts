import { counted } from '#core/text/counted'
import { grouped } from '#core/lists/grouped'
import { changeConfiguration } from '#db/configuration'
import { thingOf } from '#db/rows'
import { acceptNotes } from '#shared/api/notes'
import { defineRoute } from '../../answers/route'
import { lockedRow, whoIs } from '../../store/configuration'
import { database } from '../../store/database'

export default defineRoute(acceptNotes, async ({ event, body: { notes, reason } }) => {
  const what = `${reason === null ? 'Took back the acceptance of' : 'Accepted'} ${counted(notes.length, 'note')}`
  const { revision } = await changeConfiguration(database(), whoIs(event), what, async (editor) => {
    for (const [id, ofTag] of grouped(notes, (one) => one.id)) {
      const row = await lockedRow(editor, 'tag', id)
      const keys = new Set(ofTag.map(({ key }) => key))
      const others = thingOf('tag', row).accepted.filter(({ note }) => !keys.has(note))
      const mine = reason === null ? [] : [...keys].map((note) => ({ note, reason }))
      await editor.update('tag', row, { accepted: [...others, ...mine].slice(-mostOfTag) })
    }
  })
  return { revision }
})

/** As many as a tag takes; the oldest give way. */
const mostOfTag = 20
