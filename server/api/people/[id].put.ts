import { changeConfiguration } from '#db/configuration'
import { changePerson } from '#shared/api/people'
import { forgetCallers } from '../../access/callers'
import { personById, requireOtherAdministrator, shownPerson } from '../../access/people'
import { defineRoute } from '../../answers/route'
import { whoIs } from '../../store/configuration'
import { database } from '../../store/database'

export default defineRoute(changePerson, async ({ event, params: { id }, body: { role, on } }) => {
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
