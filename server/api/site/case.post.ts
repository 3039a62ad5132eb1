import { openCase as operation } from '#shared/api/site'
import { requireWho } from '../../access/access'
import { defineRoute } from '../../answers/route'
import { lookForCase } from '../../case/caseBook'
import { openCase, refuseUnlessEmpty } from '../../handover/open'
import { readPack } from '../../handover/read'
import { recordDeed } from '../../journal/deeds'

export default defineRoute(operation, async ({ event, body }) => {
  const site = await refuseUnlessEmpty()
  const pack = readPack(body as Uint8Array)
  const { name } = requireWho(event)
  const opened = await openCase(name, pack, site)
  await recordDeed(event, { who: name, kind: 'opened', what: `The case of “${pack.head.site}”` })
  await lookForCase()
  return opened
})
