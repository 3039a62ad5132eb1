import type { Kysely } from 'kysely'
import { protocolOf } from '#core/links/registry'
import { thingsOf } from '#db/rows'
import type { Database } from '#db/tables'
import type { Link } from '#shared/links/link'
import { settled, tagProblems, type FieldMessage, type TagDraft } from '#shared/tags'
import { engineClient } from './engineClient'
import { invalid } from './refusal'

/**
 * Checks drafts in the light of their links and of each other, and puts addresses into their
 * stored notation. Throws one refusal with every problem; paths as `tags.3.address` for many.
 */
export const settleTags = async (db: Kysely<Database>, drafts: TagDraft[], prefix: (index: number) => string): Promise<TagDraft[]> => {
  const ids = [...new Set(drafts.map((draft) => draft.linkId))]
  const rows = await db.selectFrom('link').selectAll().where('id', 'in', ids).execute()
  const links = new Map(thingsOf('link', rows).map((link) => [link.id, link]))
  const problems = drafts.flatMap((draft, index) =>
    problemsOf(draft, links).map(({ path, message }) => ({ path: prefix(index) + path, message })),
  )
  problems.push(...repeated(drafts, prefix))
  if (problems.length > 0) throw invalid(problems)
  return drafts.map((draft) => settled(draft, links.get(draft.linkId)!))
}

/** Longer than an engine at work ever takes; without its answer the addresses are kept as they are, and replaced later. */
const lastingWithinMs = 3000

/**
 * Puts lasting addresses into the place of those that may mean another point at the far side's next start, as far
 * as the far side can tell them now. Not inside of a change: it would hold others up.
 */
export const withLastingAddresses = async (db: Kysely<Database>, drafts: TagDraft[]): Promise<TagDraft[]> => {
  const ids = [...new Set(drafts.map((draft) => draft.linkId))]
  const links = thingsOf('link', await db.selectFrom('link').selectAll().where('id', 'in', ids).execute())
  const found = new Map<string, string>()
  for (const { id, kind } of links) {
    const { isPassing } = protocolOf(kind)
    const passing = [...new Set(drafts.filter(({ linkId, address }) => linkId === id && isPassing(address)).map(({ address }) => address))]
    if (passing.length === 0) continue
    const lasting = await engineClient.call((engine) => engine.lasting(id, passing), lastingWithinMs).catch(() => [])
    passing.forEach((address, i) => lasting[i] && found.set(`${id} ${address}`, lasting[i]))
  }
  return drafts.map((draft) => ({ ...draft, address: found.get(`${draft.linkId} ${draft.address}`) ?? draft.address }))
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
