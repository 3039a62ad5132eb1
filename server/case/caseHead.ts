import { caseHead, type CaseHead } from '#shared/handover'
import { database } from '../store/database'

/** The case that this copy looks at; null: none. One whose mark cannot be read is one all the same. */
export const caseHeadNow = async (): Promise<CaseHead | null> => {
  const { case_of, name, revision } = await database().selectFrom('site').select(['case_of', 'name', 'revision']).executeTakeFirstOrThrow()
  return case_of === null ? null : (caseHead.safeParse(case_of).data ?? unknownCase(name, revision))
}

const unknownCase = (site: string, revision: number): CaseHead => {
  const long = new Date(0).toISOString()
  return { site, revision, madeAt: long, by: '', version: '', openedBy: '', openedAt: long }
}
