import { sql } from 'kysely'
import { fault } from '#core/faults/catalogue'
import { counted } from '#core/text/counted'
import { changeConfiguration } from '#db/configuration'
import type { Editor } from '#db/editor'
import { isFrom } from '#shared/sources/registry'
import type { Planned } from '#shared/tagCsv/plan'
import { Refusal } from '../answers/refusal'
import { namesTaken } from '../store/configuration'
import { database } from '../store/database'
import { withLastingAddresses } from '../tags/tags'
import type { LinksNow } from './linksNow'

type Added = Extract<Planned, { what: 'added' }>
type Changed = Extract<Planned, { what: 'changed' }>
type Removed = Extract<Planned, { what: 'removed' }>

/**
 * Brings lines of a plan into the configuration, as one revision, or changes nothing: what was planned against must
 * still be as it was.
 *
 * @param progress told how far it is, from 0 to 1; what it throws takes everything back
 * @returns the revision
 */
export const applyPlan = async (
  name: string,
  who: string,
  lines: readonly Planned[],
  links: LinksNow,
  progress: (done: number) => void,
) => {
  const removed = lines.filter((line): line is Removed => line.what === 'removed')
  const [added, changed] = [await lasting(lines, 'added'), await lasting(lines, 'changed')]
  let done = 0
  const tell = (count: number) => progress((done += count) / lines.length)
  const change = changeConfiguration(database(), who, textOf(name, added.length, changed.length, removed.length), async (editor) => {
    // paths may be swapped; whether two tags have one shows at the end
    await sql`set constraints all deferred`.execute(editor.db)
    await requireAsPlanned(editor, name, [...changed, ...removed], [...added, ...changed], links)
    await editor.remove(
      'tag',
      removed.map(({ tag }) => tag),
    )
    tell(removed.length)
    await editor.updateUnseen(
      'tag',
      changed.map(({ tag, draft }) => ({ ...draft, id: tag.id })),
      tell,
    )
    await editor.insertUnseen(
      'tag',
      added.map(({ draft }) => draft),
      tell,
    )
  })
  const { revision } = await namesTaken('tag', added[0]?.path ?? '', 'path', change)
  return revision
}

const textOf = (name: string, added: number, changed: number, removed: number) => {
  const parts = [
    added > 0 && `${counted(added, 'tag')} added`,
    changed > 0 && `${added > 0 ? changed.toLocaleString('en-GB') : counted(changed, 'tag')} changed`,
    removed > 0 && `${added + changed > 0 ? removed.toLocaleString('en-GB') : counted(removed, 'tag')} removed`,
  ].filter(Boolean)
  return `Table ${name}: ${parts.join(', ')}`
}

/** Addresses that may mean another point later are replaced before anything is locked. */
const lasting = async <W extends 'added' | 'changed'>(lines: readonly Planned[], what: W): Promise<Extract<Planned, { what: W }>[]> => {
  const chosen = lines.filter((line): line is Added | Changed => line.what === what)
  const drafts = await withLastingAddresses(
    database(),
    chosen.map(({ draft }) => draft),
  )
  return chosen.map((line, i) => ({ ...line, draft: drafts[i]! })) as Extract<Planned, { what: W }>[]
}

/** Each tag carries the revision that last changed it, and so does each link that lines were checked by. */
const requireAsPlanned = async (
  editor: Editor,
  name: string,
  touched: readonly (Changed | Removed)[],
  drafted: readonly (Added | Changed)[],
  links: LinksNow,
) => {
  const now = new Map<number, number>()
  const ids = touched.map(({ tag }) => tag.id)
  for (const { id, revision } of await editor.revisions('tag', ids)) now.set(id, revision)
  const other = touched.find(({ tag }) => now.get(tag.id) !== tag.revision)
  if (other) throw new Refusal(fault('import.stale', { name, thing: `tag “${other.path}”` }))
  const linkIds = [...new Set(drafted.flatMap(({ draft }) => (isFrom('point', draft) ? [draft.source.linkId] : [])))]
  const linksThen = new Map((await editor.revisions('link', linkIds)).map(({ id, revision }) => [id, revision]))
  const moved = linkIds.find((id) => linksThen.get(id) !== links.linkOf(id)?.revision)
  if (moved !== undefined) throw new Refusal(fault('import.stale', { name, thing: `link “${links.nameOf(moved) ?? moved}”` }))
}
