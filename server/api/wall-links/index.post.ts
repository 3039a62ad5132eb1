import { fault } from '#core/faults/catalogue'
import { changeConfiguration } from '#db/configuration'
import { newToken, tokenHash } from '#security/tokens'
import { makeWallLink } from '#shared/api/displays'
import { Refusal } from '../../answers/refusal'
import { defineRoute } from '../../answers/route'
import { shownDisplay } from '../../displays/displays'
import { equipmentFor, shownWallLink } from '../../displays/walls'
import { rowOf, whoIs } from '../../store/configuration'
import { database } from '../../store/database'

const dayMs = 86_400_000

export default defineRoute(makeWallLink, async ({ event, body: { displayId, name, equipment, turnSeconds, dark, days } }) => {
  const display = shownDisplay(await rowOf('display', displayId))
  if (equipment !== '' && (await equipmentFor(display, equipment)).length === 0)
    throw new Refusal(fault('display.no-equipment', { path: equipment, name: display.name }), [
      { path: 'equipment', message: 'The display is shown for no such equipment.' },
    ])
  const [token, who] = [newToken(), whoIs(event)]
  const what = `Let a wall screen, “${name}”, show “${display.name}” for ${days} days`
  const { result } = await changeConfiguration(database(), who, what, ({ db }) =>
    db
      .insertInto('wall_link')
      .values({
        ...{ display_id: displayId, name, equipment, dark, made_by: who },
        ...{ hash: tokenHash(token), turn_seconds: turnSeconds, expires_at: new Date(Date.now() + days * dayMs) },
      })
      .returningAll()
      .executeTakeFirstOrThrow(),
  )
  return { token, shown: shownWallLink(result) }
})
