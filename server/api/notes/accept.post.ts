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
    const byTag = grouped(notes, (one) => one.id)
    const rows = new Map((await editor.rows('tag', [...byTag.keys()])).map((row) => [row.id, row]))
    const changed = []
    for (const [id, ofTag] of byTag) {
      const { accepted } = thingOf('tag', rows.get(id) ?? (await lockedRow(editor, 'tag', id)))
      const keys = new Set(ofTag.map(({ key }) => key))
      const others = accepted.filter(({ note }) => !keys.has(note))
      const mine = reason === null ? [] : [...keys].map((note) => ({ note, reason }))
      changed.push({ id, accepted: [...others, ...mine].slice(-mostOfTag) })
    }
    await editor.updateUnseen('tag', changed)
  })
  return { revision }
})

/** As many as a tag takes; the oldest give way. */
const mostOfTag = 20
