import { fault } from '#core/faults/catalogue'
import { counted } from '#core/text/counted'
import { changeConfiguration } from '#db/configuration'
import { makeBulk } from '#shared/api/equipment'
import { Refusal } from '../../../answers/refusal'
import { defineRoute } from '../../../answers/route'
import { applyBulk, bulkNow } from '../../../equipment/bulk'
import { namesTaken, whoIs } from '../../../store/configuration'
import { database } from '../../../store/database'

export default defineRoute(makeBulk, async ({ event, body: { from, digest } }) => {
  const change = changeConfiguration(database(), whoIs(event), 'Made equipment', async (editor) => {
    const { pieces, digest: now } = await bulkNow(editor.db, from)
    if (now !== digest) throw new Refusal(fault('equipment.plan-changed', {}))
    const count = (what: string) => pieces.filter((piece) => piece.what === what).length
    const done = { made: count('made'), changed: count('changed'), left: count('refused') }
    editor.what = `Made ${counted(done.made, 'piece')} of equipment${done.changed > 0 ? ` and changed ${done.changed}` : ''}`
    await applyBulk(editor, pieces)
    return done
  })
  const { result, revision } = await namesTaken('tag', '', 'from', change)
  return { ...result, revision }
})
