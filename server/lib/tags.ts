import type { Kysely } from 'kysely'
import { asLink, readable } from '#db/rows'
import type { Database } from '#db/tables'
import type { Link } from '#shared/links/link'
import { settled, tagProblems, type FieldMessage, type TagDraft } from '#shared/tags'
import { invalid } from './refusal'

/**
 * Checks drafts in the light of their links and of each other, and puts addresses into their
 * stored notation. Throws one refusal with every problem; paths as `tags.3.address` for many.
 */
export const settleTags = async (db: Kysely<Database>, drafts: TagDraft[], prefix: (index: number) => string): Promise<TagDraft[]> => {
  const ids = [...new Set(drafts.map((draft) => draft.linkId))]
  const rows = await db.selectFrom('link').selectAll().where('id', 'in', ids).execute()
  const links = new Map(readable(rows, asLink).map((link) => [link.id, link]))
  const problems = drafts.flatMap((draft, index) =>
    problemsOf(draft, links).map(({ path, message }) => ({ path: prefix(index) + path, message })),
  )
  problems.push(...repeated(drafts, prefix))
  if (problems.length > 0) throw invalid(problems)
  return drafts.map((draft) => settled(draft, links.get(draft.linkId)!))
}

const problemsOf = (draft: TagDraft, links: Map<number, Link>): FieldMessage[] => {
  const link = links.get(draft.linkId)
  return link ? tagProblems(draft, link) : [{ path: 'linkId', message: 'This link is not there any more; choose another.' }]
}

const repeated = (drafts: TagDraft[], prefix: (index: number) => string): FieldMessage[] => {
  const seen = new Set<string>()
  return drafts.flatMap(({ path }, index) => {
    const isFirst = !seen.has(path)
    seen.add(path)
    return isFirst ? [] : [{ path: `${prefix(index)}path`, message: `“${path}” stands here twice.` }]
  })
}
