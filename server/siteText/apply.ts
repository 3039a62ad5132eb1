import { sql } from 'kysely'
import { fault } from '#core/faults/catalogue'
import { counted } from '#core/text/counted'
import { changeConfiguration } from '#db/configuration'
import type { Editor } from '#db/editor'
import type { Change } from '#db/siteText/changes'
import type { SitePlan } from '#db/siteText/plan'
import { isSubject, keyOf, subjectsInOrder, type DraftOf, type Subject } from '#db/subjects'
import { isRecord } from '#db/subjects/definition'
import { Refusal } from '../answers/refusalError'
import { followTags } from '../equipment/model'
import { outletSavingOf } from '../outlets/kinds/registry'
import { database } from '../store/database'
import { sealed } from '../store/secrets'
import { withLastingAddresses } from '../tags/tags'
import type { SiteNow } from './siteNow'

/**
 * Brings a plan into the configuration as one revision; or nothing of it, where the site is no longer as it was planned
 * against, something in the text does not fit, or a secret is missing.
 *
 * @returns the revision
 */
export const applySite = async (name: string, who: string, plan: SitePlan, site: SiteNow): Promise<number> => {
  if (plan.problems.length > 0) throw new Refusal(fault('text.misfits', { name, count: plan.problems.length }), plan.problems)
  if (plan.missing.length > 0) throw new Refusal(fault('text.secrets', { name, secrets: plan.missing.map(({ secret }) => secret) }))
  const changes = await Promise.all((await withLasting(plan.changes)).map(sealedChange))
  const what = `Text ${name}: ${counted(changes.length, 'thing')} changed`
  const { revision } = await changeConfiguration(database(), who, what, async (editor) => {
    if (editor.revision !== site.revision + 1) throw new Refusal(fault('text.stale', { name }))
    await sql`set constraints all deferred`.execute(editor.db)
    if (plan.head?.site !== undefined) await editor.db.updateTable('site').set({ name: plan.head.site }).execute()
    await bringIn(editor, changes)
    if (changes.some(({ subject }) => decidesTags.has(subject))) await followTags(editor)
  })
  return revision
}

/** What equipment has as tags follows from these. */
const decidesTags = new Set<Subject>(['equipmentClass', 'equipment', 'tag'])

/** The numbers that things are to have, by their subject and name; those that are made otherwise get the next ones. */
export type Numbers = Readonly<Partial<Record<Subject, Readonly<Record<string, number>>>>>

/** Brings changes in, in an order in which each thing finds what it refers to. */
export const bringIn = async (editor: Editor, changes: readonly Change[], numbers: Numbers = {}) => {
  const bySubject = new Map(subjectsInOrder().map((subject) => [subject, changes.filter((change) => change.subject === subject)]))
  for (const [subject, ours] of [...bySubject].reverse())
    await editor.remove(
      subject,
      ours.flatMap((change) => (change.what === 'removed' ? [change.thing] : [])),
    )
  const given = new Map<number, number>()
  for (const [subject, ours] of bySubject) {
    const changed = ours.flatMap((change) => (change.what === 'changed' ? [{ ...withIds(change.draft, given), id: change.thing.id }] : []))
    await editor.updateUnseen(subject, changed as never)
    const made = ours.filter((change) => change.what === 'made')
    const drafts = made.map(({ name, draft }) => ({
      ...withIds(draft, given),
      ...numbered(numbers[subject]?.[name]),
    })) as DraftOf[Subject][]
    if (subject === 'tag') await editor.insertUnseen(subject, drafts as never)
    else await insertNamed(editor, subject, made, drafts, given)
  }
}

/** What others refer to: their ids take the place of those that the plan gave. */
const insertNamed = async (
  editor: Editor,
  subject: Subject,
  made: readonly { name: string; id: number }[],
  drafts: readonly DraftOf[Subject][],
  given: Map<number, number>,
) => {
  if (drafts.length === 0) return
  const ids = new Map((await editor.insert(subject, drafts as never)).map((row) => [keyOf(subject, row as never), row.id]))
  for (const { name, id } of made) given.set(id, ids.get(name)!)
}

const numbered = (id: number | undefined) => (id === undefined ? {} : { id })

const withIds = (value: unknown, given: ReadonlyMap<number, number>): object => {
  const inner = (part: unknown): unknown => {
    if (Array.isArray(part)) return part.map(inner)
    if (!isRecord(part)) return part
    return Object.fromEntries(
      Object.entries(part).map(([name, field]) => [
        name,
        typeof field === 'number' && name.endsWith('Id') && isSubject(name.slice(0, -2)) ? (given.get(field) ?? field) : inner(field),
      ]),
    )
  }
  return inner(value) as object
}

/** With its secrets as the database has them. */
export const sealedChange = async (change: Change): Promise<Change> => {
  if (change.what === 'removed') return change
  if (isOf('link', change)) return { ...change, draft: { ...change.draft, settings: sealed(change.draft.settings) } }
  if (!isOf('outlet', change)) return change
  const settings = await outletSavingOf(change.draft.kind).stored(change.draft.settings, null)
  return { ...change, draft: { ...change.draft, settings } }
}

const isOf = <S extends Subject>(subject: S, change: Change): change is Exclude<Change<S>, { what: 'removed' }> =>
  change.subject === subject && change.what !== 'removed'

/** Addresses that may mean another point later are replaced before anything is locked. */
const withLasting = async (changes: readonly Change[]): Promise<Change[]> => {
  const tags = changes.filter((change) => isOf('tag', change))
  const drafts = await withLastingAddresses(
    database(),
    tags.map(({ draft }) => draft),
  )
  const lasting = new Map<Change, DraftOf['tag']>(tags.map((change, i) => [change, drafts[i]!]))
  return changes.map((change) => (lasting.has(change) ? ({ ...change, draft: lasting.get(change)! } as Change) : change))
}
