import { fault } from '#core/faults/catalogue'
import { takeEvidence } from '#shared/api/checks'
import { Refusal, valueOf } from '../../../answers/refusal'
import { defineRoute } from '../../../answers/route'
import { isOn } from '../../../checks/points'
import { sheetRow } from '../../../checks/sheets'
import { engineClient } from '../../../runtime/engineClient'

export default defineRoute(takeEvidence, async ({ params: { id }, body: { tag } }) => {
  await sheetRow(id)
  if (!(await isOn(id, tag))) throw new Refusal(fault('checks.not-on', { tag }))
  return valueOf(await engineClient.call((engine) => engine.evidence(tag)))
})
