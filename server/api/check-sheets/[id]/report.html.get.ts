import { setResponseHeaders } from 'h3'
import { reportPage } from '#core/checks/report'
import { reportCheckSheet } from '#shared/api/checks'
import { defineRoute } from '../../../answers/route'
import { digestOf, pointsOf, sheetRow, shownSheet } from '../../../checks/sheets'
import { database } from '../../../store/database'

export default defineRoute(reportCheckSheet, async ({ event, params: { id } }) => {
  const [row, points] = [await sheetRow(id), await pointsOf(id)]
  const { name: site, revision } = await database().selectFrom('site').select(['name', 'revision']).executeTakeFirstOrThrow()
  setResponseHeaders(event, {
    'content-type': 'text/html; charset=utf-8',
    'content-disposition': `attachment; filename="check-sheet-${id}.html"`,
  })
  return reportPage({
    ...{ site, revision },
    ...shownSheet(row, points),
    digest: await digestOf(id),
    points: points.map(({ changed, last, ...point }) => ({
      ...point,
      why:
        point.state === 'again'
          ? changed.map(({ field, before, after }) => `${field}: ${before ?? 'none'} → ${after ?? 'none'}`).join('; ')
          : '',
      last: last && { ...last, evidence: last.evidence?.stages ?? [] },
    })),
  })
})
