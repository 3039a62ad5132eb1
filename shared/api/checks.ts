import { z } from 'zod'
import { pointStates } from '#core/checks/state'
import { idField, numberText } from '#core/contracts/fields'
import {
  changedCheckSheet,
  checkCompany,
  checkedOnceList,
  checkPlace,
  checkPoint,
  checksAnswer,
  checkSheet,
  checkSheetWhole,
  checksTaken,
  evidenceAsked,
  mostCheckPoints,
  newCheckSheet,
  takenEvidence,
} from '../checks'
import { listQuery, pageOf } from './lists'
import { operation } from './operation'

const group = 'Check sheets'
const example = { name: 'Berth 1 against the panel', against: 'Panel of berth 1', below: ['berth/1'] }

export const listCheckSheets = operation('GET /check-sheets', {
  group,
  needs: 'look',
  does: 'Sheets by which points are checked one by one against a far side.',
  query: listQuery(['-id', 'name']),
  answer: pageOf(checkSheet),
})

export const showCheckSheet = operation('GET /check-sheets/{id}', {
  group,
  needs: 'look',
  does: 'A sheet, how its points are, and whether anything was changed since it was closed.',
  answer: checkSheetWhole,
})

export const makeCheckSheet = operation('POST /check-sheets', {
  group,
  needs: 'operate',
  does: 'Makes a sheet for tags, for all tags in folders, or for what has to be checked again of another sheet.',
  body: newCheckSheet,
  example,
  answer: checkSheet,
  faults: ['entry.taken', 'checks.no-points', 'checks.too-many'],
})

export const changeCheckSheet = operation('PUT /check-sheets/{id}', {
  group,
  needs: 'operate',
  does: 'Calls a sheet otherwise, and brings points onto it or takes them off.',
  body: changedCheckSheet,
  example: { name: 'Berth 1 against the panel', add: ['berth/1/meter'] },
  answer: checkSheet,
  faults: ['entry.taken', 'checks.closed', 'checks.no-points', 'checks.too-many'],
})

export const removeCheckSheet = operation('DELETE /check-sheets/{id}', {
  group,
  needs: 'configure',
  does: 'Removes a sheet with all that was checked. That cannot be taken back.',
  answer: z.object({ removed: z.int() }),
})

export const listCheckPoints = operation('GET /check-sheets/{id}/points', {
  group,
  needs: 'look',
  does: 'The points of a sheet, each with its last check, and what is another thing since.',
  query: {
    ...listQuery(['path', 'state'], mostCheckPoints),
    state: z.enum(pointStates).optional().describe('Only those that are so.'),
    after: numberText(0).optional().describe('Only those that were checked again after this check.'),
  },
  answer: pageOf(checkPoint),
})

export const followCheckSheet = operation('PUT /check-sheets/{id}/place', {
  group,
  needs: 'look',
  does: 'Says at which point of a sheet one is, and answers where the others are and whether anything is another thing. Whoever says nothing for a quarter of a minute is nowhere.',
  body: checkPlace,
  example: { tag: 12 },
  answer: checkCompany,
})

export const takeEvidence = operation('POST /check-sheets/{id}/evidence', {
  group,
  needs: 'operate',
  does: 'How a point is at this moment, as evidence for a check: its value, how it is made from the bytes, and the frames that bring it. Waits a few seconds for it to be read anew.',
  body: evidenceAsked,
  example: { tag: 12 },
  answer: takenEvidence,
  engine: true,
  faults: ['checks.not-on'],
})

export const showChecksOf = operation('GET /check-sheets/{id}/checks', {
  group,
  needs: 'look',
  does: 'All checks of one point, the newest first.',
  query: { tag: numberText(1).pipe(idField('A tag')) },
  answer: checkedOnceList,
})

export const takeChecks = operation('POST /check-sheets/{id}/checks', {
  group,
  needs: 'operate',
  does: 'Takes checks in, also such as were made a while ago without a connection. Each has a key: what is sent twice counts once. One that is refused stops no other.',
  body: checksTaken,
  example: {
    checks: [
      {
        ...{ key: '7b1f3c52-8a0e-4f0b-9a55-0d6f1d1c2e11', tag: 12, at: 1_796_083_200_000, way: 'set', expected: '350', seen: '350.2' },
        ...{ outcome: 'good' },
      },
    ],
  },
  size: 'many',
  answer: checksAnswer,
  faults: ['checks.closed'],
})

export const closeCheckSheet = operation('POST /check-sheets/{id}/close', {
  group,
  needs: 'configure',
  does: 'Closes a sheet: nothing is added any more, and the digest of all that was checked stands fast.',
  answer: checkSheet,
  faults: ['checks.closed'],
})

export const reportCheckSheet = operation('GET /check-sheets/{id}/report.html', {
  group,
  needs: 'look',
  does: 'The sheet as a page of its own, to be printed and signed, with the digest of all that was checked.',
  answer: z.string(),
  as: 'text',
})

export const printCheckSheet = operation('GET /check-sheets/{id}/report.pdf', {
  group,
  needs: 'look',
  does: 'The same as PDF.',
  answer: z.string(),
  as: 'pdf',
  faults: ['checks.not-printed'],
})
