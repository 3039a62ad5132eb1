import { sql, type Kysely } from 'kysely'
import { changeConfiguration } from './configuration'
import type { Editor } from './editor'
import { readStored, subjectsInOrder, type Subject, type ThingOf } from './subjects'
import type { Change, Database } from './tables'

class Impossible extends Error {}

export type Outcome = { revision: number } | { problem: string }

/**
 * Undoes revisions by a new one: what they made goes, what they removed comes back under its old id, what they changed
 * is as before the first of them. Refused where one of these things has changed again since.
 */
export const takeBack = async (db: Kysely<Database>, who: string, numbers: number | readonly number[]): Promise<Outcome> => {
  const wanted = [...new Set(typeof numbers === 'number' ? [numbers] : numbers)].sort((a, b) => a - b)
  const found = await db.selectFrom('revision').select(['number', 'what']).where('number', 'in', wanted).orderBy('number').execute()
  const missing = wanted.find((number) => !found.some((revision) => revision.number === number))
  if (missing !== undefined) return { problem: wanted.length === 1 ? 'there is no such revision.' : `there is no revision ${missing}.` }
  const what = found.length === 1 ? `revision ${wanted[0]}: ${found[0]!.what}` : `revisions ${listed(wanted)}`
  return undo(db, who, `Took back ${what}`, (changes) => changes.where('revision', 'in', wanted))
}

/** Undoes everything that came after a revision, by a new one. */
export const returnTo = async (db: Kysely<Database>, who: string, number: number): Promise<Outcome> => {
  const { forgotten } = await db.selectFrom('site').select('forgotten').executeTakeFirstOrThrow()
  const found = await db.selectFrom('revision').select('number').where('number', '=', number).executeTakeFirst()
  if (number < forgotten) return { problem: `what was changed up to revision ${forgotten} is forgotten.` }
  if (!found) return { problem: 'there is no such revision.' }
  return undo(db, who, `Returned to revision ${number}`, (changes) => changes.where('revision', '>', number))
}

const mostListed = 6
const listed = (numbers: readonly number[]) =>
  numbers.length > mostListed
    ? `${numbers.slice(0, mostListed).join(', ')} and ${numbers.length - mostListed} more`
    : `${numbers.slice(0, -1).join(', ')} and ${numbers.at(-1)}`

type Changes = ReturnType<typeof changesIn>
const changesIn = (db: Kysely<Database>, before: number) =>
  db.selectFrom('change').select(['revision', 'subject', 'thing', 'what', 'before']).where('revision', '<', before)

const undo = async (db: Kysely<Database>, who: string, what: string, which: (changes: Changes) => Changes): Promise<Outcome> => {
  try {
    const { revision } = await changeConfiguration(db, who, what, async (editor) => {
      await sql`set constraints all deferred`.execute(editor.db)
      const changes = await which(changesIn(editor.db, editor.revision)).orderBy('revision').execute()
      if (changes.length === 0) throw new Impossible('nothing was changed that can be put back.')
      await putBack(editor, spansOf(changes))
    })
    return { revision }
  } catch (error) {
    if (error instanceof Impossible) return { problem: error.message }
    if (['23505', '23503'].includes((error as { code?: string }).code ?? '')) return { problem: 'its place is taken by something newer.' }
    throw error
  }
}

type Made = Change & { revision: number }
/** What became of one thing: how it was before the first of the changes, and what the last one left. */
interface Span {
  subject: Subject
  thing: number
  first: Made
  last: Made
}

const spansOf = (changes: readonly Made[]): Span[] => {
  const spans = new Map<string, Span>()
  for (const change of changes) {
    const key = `${change.subject} ${change.thing}`
    const span = spans.get(key)
    if (span) span.last = change
    else spans.set(key, { subject: change.subject, thing: change.thing, first: change, last: change })
  }
  return [...spans.values()]
}

const putBack = async (editor: Editor, spans: readonly Span[]) => {
  const bySubject = new Map(subjectsInOrder().map((subject) => [subject, spans.filter((span) => span.subject === subject)]))
  const present = new Map<Subject, Set<number>>()
  for (const [subject, ours] of bySubject) present.set(subject, await presentOf(editor, subject, ours))
  const isThere = ({ subject, thing }: Span) => present.get(subject)!.has(thing)
  const wasThere = ({ first }: Span) => first.what !== 'made'
  for (const [subject, ours] of [...bySubject].reverse()) {
    const going = ours.filter((span) => isThere(span) && !wasThere(span))
    await editor.remove(
      subject,
      going.map(({ thing }) => ({ id: thing })),
    )
  }
  // names that are free again are there for what comes back
  for (const [subject, ours] of bySubject)
    await editor.updateUnseen(subject, ours.filter((span) => isThere(span) && wasThere(span)).map(before))
  for (const [subject, ours] of bySubject)
    await editor.insertUnseen(subject, ours.filter((span) => !isThere(span) && wasThere(span)).map(before))
}

/** What was stored then, in the form of today; impossible where that cannot be read any more. */
const before = ({ subject, thing, first }: Span): ThingOf[Subject] => {
  const was = readStored(subject, first.before)
  if (!was.ok) throw new Impossible(`what ${subject} ${thing} was before cannot be read by this version: ${was.problem}`)
  return was.thing
}

/** Which of these things are there now; impossible where one is not as the last of the changes left it. */
const presentOf = async (editor: Editor, subject: Subject, spans: readonly Span[]): Promise<Set<number>> => {
  const found = await editor.revisions(
    subject,
    spans.map(({ thing }) => thing),
  )
  const revisions = new Map(found.map(({ id, revision }) => [id, revision]))
  for (const { thing, last } of spans) {
    const revision = revisions.get(thing)
    if (last.what === 'removed' ? revision === undefined : revision === last.revision) continue
    throw new Impossible(
      revision === undefined ? `${subject} ${thing} is gone since.` : `${subject} ${thing} was changed again in revision ${revision}.`,
    )
  }
  return new Set(revisions.keys())
}
