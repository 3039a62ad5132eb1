import { fault } from '#core/faults/catalogue'
import { changeConfiguration } from '#db/configuration'
import { endRelay } from '#shared/api/relays'
import { Refusal } from '../../answers/refusal'
import { defineRoute } from '../../answers/route'
import { relays } from '../../relays/relays'
import { lockedRow, whoIs } from '../../store/configuration'
import { database } from '../../store/database'

export default defineRoute(endRelay, async ({ event, body: { of, id } }) => {
  const { result: ended, revision } = await changeConfiguration(database(), whoIs(event), 'Ended a pairing', async (editor) => {
    const { name } = await lockedRow(editor, of, id)
    const paired = (await relays(editor.db)).find((one) => one.of === of && one.id === id)
    if (!paired) throw new Refusal(fault('pairing.not-paired', { name }))
    const row = await editor.db.selectFrom('certificate').selectAll().where('fingerprint', '=', paired.fingerprint).executeTakeFirst()
    if (row) await editor.update('certificate', row, { verdict: 'refused' })
    editor.what = `Ended the pairing of “${name}” with “${paired.partner}”`
    return name
  })
  return { ended, revision }
})
