import { fault } from '#core/faults/catalogue'
import { showCase } from '#shared/api/site'
import { Refusal } from '../../answers/refusal'
import { defineRoute } from '../../answers/route'
import { caseHeadNow } from '../../case/caseHead'
import { readCaseParts } from '../../handover/caseParts'
import { database } from '../../store/database'

export default defineRoute(showCase, async () => {
  const [head, parts] = await Promise.all([caseHeadNow(), readCaseParts(database(), ['machine', 'revisions', 'left', 'checks'])])
  if (!head || !parts) throw new Refusal(fault('case.none', {}))
  return { head, ...parts, checks: parts.checks.map(({ of, id, at, outcome }) => ({ of, id, at, outcome })) }
})
