import { sql, type Kysely } from 'kysely'
import { Editor } from './editor'
import { isCase } from './since'
import type { Database } from './tables'
import { Turnstile } from './turnstile'

/** The channel on which engines and pages hear that the configuration changed; payload: the revision. */
export const configurationChannel = 'configuration'

/** The site looks at the case of another one, which stays as it was. */
export class CaseIsFixed extends Error {}

/**
 * Changes the configuration in one transaction. The lock on the site's row puts changes in order,
 * each gets the next revision number, and what it did is kept, before and after, so that it can be
 * followed, explained and taken back. What a change decides by, it reads through the editor: under
 * that lock, and over the one connection that it has.
 *
 * @param ofCase whether it may change a site that looks at a case
 */
export const changeConfiguration = <T>(
  db: Kysely<Database>,
  who: string,
  what: string,
  edit: (editor: Editor) => Promise<T>,
  { ofCase = false }: { ofCase?: boolean } = {},
): Promise<{ result: T; revision: number }> => turnstileOf(db).pass(() => change(db, { who, what, ofCase }, edit))

/** A change that waits for the lock would hold one of the few connections meanwhile; so they wait before. */
const turnstiles = new WeakMap<Kysely<Database>, Turnstile>()
const turnstileOf = (db: Kysely<Database>): Turnstile => {
  const known = turnstiles.get(db) ?? new Turnstile()
  turnstiles.set(db, known)
  return known
}

const change = <T>(
  db: Kysely<Database>,
  { who, what, ofCase }: { who: string; what: string; ofCase: boolean },
  edit: (editor: Editor) => Promise<T>,
): Promise<{ result: T; revision: number }> =>
  db.transaction().execute(async (transaction) => {
    const { revision, isCase: looksAtCase } = await transaction
      .updateTable('site')
      .set((eb) => ({ revision: eb('revision', '+', 1) }))
      .returning(['revision', isCase])
      .executeTakeFirstOrThrow()
    if (looksAtCase && !ofCase) throw new CaseIsFixed('the site looks at a case')
    await transaction.insertInto('revision').values({ number: revision, who, what }).execute()
    const editor = new Editor(transaction, revision, what)
    const result = await edit(editor)
    if (editor.what !== what) await transaction.updateTable('revision').set({ what: editor.what }).where('number', '=', revision).execute()
    await sql`select pg_notify(${configurationChannel}, ${String(revision)})`.execute(transaction)
    return { result, revision }
  })
