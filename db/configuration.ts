import { sql, type Kysely, type Selectable, type Transaction } from 'kysely'
import { columnsOf, type DraftOf, type Subject } from './subjects'
import type { Identified } from './subjects/definition'
import type { Change, Database } from './tables'
import { Turnstile } from './turnstile'

/** The channel on which engines and pages hear that the configuration changed; payload: the revision. */
export const configurationChannel = 'configuration'

export type Row<S extends Subject> = Selectable<Database[S]> & Identified

/**
 * Changes the configuration in one transaction. The lock on the site's row puts changes in order,
 * each gets the next revision number, and what it did is kept, before and after, so that it can be
 * followed, explained and taken back. What a change decides by, it reads through the editor: under
 * that lock, and over the one connection that it has.
 */
export const changeConfiguration = <T>(
  db: Kysely<Database>,
  who: string,
  what: string,
  edit: (editor: Editor) => Promise<T>,
): Promise<{ result: T; revision: number }> => turnstileOf(db).pass(() => change(db, who, what, edit))

/** A change that waits for the lock would hold one of the few connections meanwhile; so they wait before. */
const turnstiles = new WeakMap<Kysely<Database>, Turnstile>()
const turnstileOf = (db: Kysely<Database>): Turnstile => {
  const known = turnstiles.get(db) ?? new Turnstile()
  turnstiles.set(db, known)
  return known
}

const change = <T>(
  db: Kysely<Database>,
  who: string,
  what: string,
  edit: (editor: Editor) => Promise<T>,
): Promise<{ result: T; revision: number }> =>
  db.transaction().execute(async (transaction) => {
    const { revision } = await transaction
      .updateTable('site')
      .set((eb) => ({ revision: eb('revision', '+', 1) }))
      .returning('revision')
      .executeTakeFirstOrThrow()
    const editor = new Editor(transaction, revision, what)
    const result = await edit(editor)
    await recordRevision(transaction, revision, who, editor.what, editor.changes)
    return { result, revision }
  })

const recordRevision = async (db: Transaction<Database>, number: number, who: string, what: string, changes: Change[]) => {
  await db
    .insertInto('revision')
    .values({ number, who, what, changes: JSON.stringify(changes) })
    .execute()
  await sql`select pg_notify(${configurationChannel}, ${String(number)})`.execute(db)
}

type New<S extends Subject> = DraftOf[S] & { id?: number }

/** PostgreSQL takes at most 65,535 parameters in one statement. */
const mostParameters = 20_000

const idOf = (row: Identified) => row.id

/** The only writer of configuration tables: it notes every row before and after. */
export class Editor {
  readonly changes: Change[] = []

  constructor(
    readonly db: Transaction<Database>,
    readonly revision: number,
    /** In words, for the list of revisions; set by the change itself where only the rows tell. */
    public what: string,
  ) {}

  /** Things go in by the thousand at a time; one that comes back keeps its id. */
  async insert<S extends Subject>(subject: S, things: readonly New<S>[]): Promise<Row<S>[]> {
    const inserted: Row<S>[] = []
    for (let at = 0; at < things.length; at += 1000) {
      const values = things.slice(at, at + 1000).map((thing) => ({ ...columnsOf(subject, thing), revision: this.revision }))
      const part = await this.db
        .insertInto(subject)
        .values(values as never)
        .returningAll()
        .execute()
      inserted.push(...(part as unknown as Row<S>[]))
    }
    for (const row of inserted) this.note(subject, null, row)
    return inserted
  }

  async update<S extends Subject>(subject: S, before: Row<S>, fields: Partial<DraftOf[S]>): Promise<Row<S>> {
    const after = (await this.db
      .updateTable(subject as Subject)
      .set({ ...columnsOf(subject, fields), revision: this.revision } as never)
      .where('id', '=', idOf(before))
      .returningAll()
      .executeTakeFirstOrThrow()) as Row<S>
    this.note(subject, before, after)
    return after
  }

  /** A row as it is under the lock that changes it; undefined where it is gone. */
  async row<S extends Subject>(subject: S, id: number): Promise<Row<S> | undefined> {
    const [row] = await this.rows(subject, [id])
    return row
  }

  /** The rows with these ids, as far as they are there. */
  async rows<S extends Subject>(subject: S, ids: number[]): Promise<Row<S>[]> {
    const found: Row<S>[] = []
    for (let at = 0; at < ids.length; at += mostParameters) {
      const part = await this.db
        .selectFrom(subject as Subject)
        .selectAll()
        .where('id', 'in', ids.slice(at, at + mostParameters))
        .execute()
      found.push(...(part as unknown as Row<S>[]))
    }
    return found
  }

  async remove<S extends Subject>(subject: S, rows: Row<S>[]) {
    for (let at = 0; at < rows.length; at += mostParameters) {
      const ids = rows.slice(at, at + mostParameters).map(idOf)
      await this.db
        .deleteFrom(subject as Subject)
        .where('id', 'in', ids)
        .execute()
    }
    for (const row of rows) this.note(subject, row, null)
  }

  private note<S extends Subject>(subject: S, before: Row<S> | null, after: Row<S> | null) {
    const id = idOf((after ?? before)!)
    this.changes.push({ subject, id, before: before as Change['before'], after: after as Change['after'] })
  }
}
