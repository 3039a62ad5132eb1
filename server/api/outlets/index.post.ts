import { changeConfiguration } from '#db/configuration'
import { outletContract } from '#shared/outlets/outlet'
import { namesTaken, whoIs } from '../../store/configuration'
import { database } from '../../store/database'
import { readySettings, shownOutlet } from '../../outlets/outlets'
import { bodyOf, defineRoute, manyBytes } from '../../answers/refusal'

/** Makes an outlet. */
export default defineRoute('configure', async (event) => {
  const outlet = await bodyOf(event, outletContract, manyBytes)
  const change = changeConfiguration(database(), whoIs(event), `Made outlet “${outlet.name}”`, async (editor) =>
    editor.insert('outlet', [{ ...outlet, settings: await readySettings(editor.db, outlet, null) }]),
  )
  const { result } = await namesTaken('outlet', outlet.name, 'name', change)
  return shownOutlet(result[0]!)
})
