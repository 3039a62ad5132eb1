import { closeCase as operation } from '#shared/api/site'
import { requireWho } from '../../access/access'
import { defineRoute } from '../../answers/route'
import { lookForCase } from '../../case/caseBook'
import { closeCase } from '../../handover/close'
import { recordDeed } from '../../journal/deeds'

export default defineRoute(operation, async ({ event }) => {
  const { name } = requireWho(event)
  await closeCase(name)
  await recordDeed(event, { who: name, kind: 'closed', what: 'The case that was looked at here' })
  await lookForCase()
  return { closed: true as const }
})
