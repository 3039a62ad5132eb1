import { mayDo } from '#core/access/roles'
import { followCheckSheet } from '#shared/api/checks'
import { requireWho } from '../../../access/access'
import { defineRoute } from '../../../answers/route'
import { inCompany } from '../../../checks/company'

export default defineRoute(followCheckSheet, ({ event, params: { id }, body: { tag } }) => {
  const { name, role } = requireWho(event)
  // who may only look is at work nowhere
  return inCompany(id, name, mayDo(role, 'operate') ? tag : null)
})
