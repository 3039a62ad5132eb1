import { sql } from 'kysely'
import { reportTexts, type ReportTexts } from '#core/checks/report'
import type { CheckEvidence } from '#shared/checks'
import { database } from '../store/database'
import { digestNow } from './digest'
import { pointsOf } from './points'
import { sheetRow, shownSheet } from './sheets'

/** What a sheet tells on paper now. */
export const reportOf = async (id: number): Promise<ReportTexts> => {
  const sheet = await shownSheet(await sheetRow(id))
  const { name: site, revision } = await database().selectFrom('site').select(['name', 'revision']).executeTakeFirstOrThrow()
  const [points, evidence] = [await pointsOf(id), await lastEvidence(id)]
  return reportTexts({
    ...sheet,
    ...{ site, revision, digest: await digestNow(id) },
    points: points.map(({ last, ...point }) => ({ ...point, last: last && { ...last, evidence: evidence.get(last.id) ?? null } })),
  })
}

/** What was attached to the last check of each point, by the number of the check. */
const lastEvidence = async (id: number): Promise<Map<number, CheckEvidence>> => {
  const { rows } = await sql<{ id: number; evidence: CheckEvidence | null }>`
    select distinct on (tag_id) id, evidence from check_result where sheet_id = ${id} order by tag_id, at desc, id desc`.execute(database())
  return new Map(rows.flatMap(({ id, evidence }) => (evidence ? [[id, { ...evidence, frames: evidence.frames ?? [] }]] : [])))
}
