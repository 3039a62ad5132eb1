import type { Kysely } from 'kysely'
import { protocolOf } from '#core/links/registry'
import { thingsOf } from '#db/rows'
import type { Database } from '#db/tables'
import type { Link } from '#shared/links/link'
import { circlesIn, circleText } from '#shared/sources/circles'
import { isFrom, readingKinds, settled, tagProblems } from '#shared/sources/registry'
import type { FieldMessage } from '#shared/faults'
import type { TagDraft } from '#shared/tags'
import { engineClient } from '../runtime/engineClient'
import { invalid } from '../answers/checked'
import { ownedProblems } from '../equipment/owned'

/**
 * Checks drafts in the light of their links and of each other, and puts addresses into their
 * stored notation. Throws one refusal with every problem; paths as `tags.3.address` for many.
 */
export const settleTags = async (db: Kysely<Database>, drafts: TagDraft[], prefix: (index: number) => string): Promise<TagDraft[]> => {
  const links = new Map((await linksOf(db, drafts)).map((link) => [link.id, link]))
  const linkOf = (id: number) => links.get(id)
  const problems = drafts.flatMap((draft, index) =>
    tagProblems(draft, linkOf).map(({ path, message }) => ({ path: prefix(index) + path, message })),
  )
  problems.push(...repeated(drafts, prefix), ...(await setless(db, drafts, prefix)), ...(await circular(db, drafts, prefix)))
  problems.push(...(await ownedProblems(db, drafts, prefix)))
  if (problems.length > 0) throw invalid(problems)
  return drafts.map((draft) => settled(draft, linkOf))
}

/** The links that these drafts read through, as far as they are there and can be read. */
const linksOf = async (db: Kysely<Database>, drafts: readonly TagDraft[]): Promise<Link[]> => {
  const ids = [...new Set(drafts.filter((draft) => isFrom('point', draft)).map(({ source }) => source.linkId))]
  if (ids.length === 0) return []
  return thingsOf('link', await db.selectFrom('link').selectAll().where('id', 'in', ids).execute())
}

/** Longer than an engine at work ever takes; without its answer the addresses are kept as they are, and replaced later. */
const lastingWithinMs = 3000

/**
 * Puts lasting addresses into the place of those that may mean another point at the far side's next start, as far
 * as the far side can tell them now. Not inside of a change: it would hold others up.
 */
export const withLastingAddresses = async (db: Kysely<Database>, drafts: TagDraft[]): Promise<TagDraft[]> => {
  const points = drafts.filter((draft) => isFrom('point', draft)).map(({ source }) => source)
  const found = new Map<string, string>()
  for (const { id, kind } of await linksOf(db, drafts)) {
    const { isPassing } = protocolOf(kind)
    const passing = [...new Set(points.filter(({ linkId, address }) => linkId === id && isPassing(address)).map(({ address }) => address))]
    if (passing.length === 0) continue
    const lasting = await engineClient.call((engine) => engine.lasting(id, passing), lastingWithinMs).catch(() => [])
    passing.forEach((address, i) => lasting[i] && found.set(`${id} ${address}`, lasting[i]))
  }
  return drafts.map((draft) => {
    if (!isFrom('point', draft)) return draft
    const lasting = found.get(`${draft.source.linkId} ${draft.source.address}`)
    return lasting ? { ...draft, source: { ...draft.source, address: lasting } } : draft
  })
}

/** Drafts that would read themselves in the end, over tags that are there already. */
const circular = async (db: Kysely<Database>, drafts: readonly TagDraft[], prefix: (index: number) => string): Promise<FieldMessage[]> => {
  if (!drafts.some(({ source }) => readingKinds.includes(source.kind))) return []
  const others = thingsOf('tag', await db.selectFrom('tag').selectAll().where('source', 'in', readingKinds).execute())
  const found = circlesIn(
    [...others, ...drafts],
    drafts.map(({ path }) => path),
  )
  return drafts.flatMap(({ path }, index) =>
    found.has(path) ? [{ path: `${prefix(index)}source.inputs`, message: circleText(found.get(path)!) }] : [],
  )
}

/** Drafts of record sets that are not there. */
const setless = async (db: Kysely<Database>, drafts: readonly TagDraft[], prefix: (index: number) => string): Promise<FieldMessage[]> => {
  const wanted = new Set(drafts.flatMap(({ source }) => (source.kind === 'record' ? [source.recordSetId] : [])))
  if (wanted.size === 0) return []
  const there = new Set(
    (
      await db
        .selectFrom('recordSet')
        .select('id')
        .where('id', 'in', [...wanted])
        .execute()
    ).map(({ id }) => id),
  )
  return drafts.flatMap(({ source }, index) =>
    source.kind === 'record' && !there.has(source.recordSetId)
      ? [{ path: `${prefix(index)}source.recordSetId`, message: 'This record set is not there.' }]
      : [],
  )
}

const repeated = (drafts: TagDraft[], prefix: (index: number) => string): FieldMessage[] => {
  const seen = new Set<string>()
  return drafts.flatMap(({ path }, index) => {
    const isFirst = !seen.has(path)
    seen.add(path)
    return isFirst ? [] : [{ path: `${prefix(index)}path`, message: `“${path}” stands here twice.` }]
  })
}
