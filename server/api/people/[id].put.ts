import { changeConfiguration } from '#db/configuration'
import { personChange } from '#shared/people'
import { forgetCallers } from '../../access/callers'
import { idOf, whoIs } from '../../store/configuration'
import { database } from '../../store/database'
import { personById, requireOtherAdministrator, shownPerson } from '../../access/people'
import { bodyOf, defineRoute } from '../../answers/refusal'

/** Gives somebody another role, or shuts them out; who is shut out is out at once. */
export default defineRoute('administer', async (event) => {
  const { role, on } = await bodyOf(event, personChange)
  const id = idOf(event)
  const { result } = await changeConfiguration(database(), whoIs(event), 'Changed what somebody may do', async (editor) => {
    const person = await personById(editor.db, id)
    editor.what = on ? `Gave “${person.name}” the role ${role}` : `Shut “${person.name}” out`
    if (role !== 'administer' || !on) await requireOtherAdministrator(editor.db, person)
    if (!on) await editor.db.deleteFrom('session').where('person_id', '=', id).execute()
    return editor.db.updateTable('person').set({ role, on }).where('id', '=', id).returningAll().executeTakeFirstOrThrow()
  })
  forgetCallers()
  return shownPerson(result)
})
