import { sql, type RawBuilder, type Selectable, type Transaction } from 'kysely'
import { nextTurn } from '#pacing/turns'
import { columnsOf, type DraftOf, type Subject } from './subjects'
import type { Identified } from './subjects/definition'
import type { ChangeTable, Database } from './tables'

export type Row<S extends Subject> = Selectable<Database[S]> & Identified
type New<S extends Subject> = DraftOf[S] & { id?: number }

/** So many things travel to the database in one statement. */
const inOneStatement = 2000

/**
 * The only writer of configuration tables. Things go in as JSON by the thousand, and the database itself notes what
 * was before of each, so that nothing has to come back for that.
 */
export class Editor {
  constructor(
    readonly db: Transaction<Database>,
    readonly revision: number,
    /** In words, for the list of revisions; set by the change itself where only the rows tell. */
    public what: string,
  ) {}

  /** One that comes back keeps its id. */
  async insert<S extends Subject>(subject: S, things: readonly New<S>[]): Promise<Row<S>[]> {
    return (await this.inserted(subject, things, true)) as Row<S>[]
  }

  /** The same where nobody wants to see the rows. @param told how many more are in; what it throws ends the change */
  async insertUnseen<S extends Subject>(subject: S, things: readonly New<S>[], told?: Told) {
    await this.inserted(subject, things, false, told)
  }

  async update<S extends Subject>(subject: S, before: Row<S>, fields: Partial<DraftOf[S]>): Promise<Row<S>> {
    const [row] = await this.updated(subject, [{ ...fields, id: before.id }], true)
    return row as Row<S>
  }

  /** The same fields of many things; each says by its id which it is. */
  async updateUnseen<S extends Subject>(subject: S, things: readonly (Partial<DraftOf[S]> & { id: number })[], told?: Told) {
    await this.updated(subject, things, false, told)
  }

  /** A row as it is under the lock that changes it; undefined where it is gone. */
  async row<S extends Subject>(subject: S, id: number): Promise<Row<S> | undefined> {
    const [row] = await this.rows(subject, [id])
    return row
  }

  /** The rows with these ids, as far as they are there. */
  async rows<S extends Subject>(subject: S, ids: readonly number[]): Promise<Row<S>[]> {
    if (ids.length === 0) return []
    const found = await sql<Row<S>>`select * from ${sql.table(subject)} where id = any(${ids})`.execute(this.db)
    return found.rows
  }

  /** By which revision each of these was last changed, as far as they are there. */
  async revisions(subject: Subject, ids: readonly number[]): Promise<Identified[]> {
    if (ids.length === 0) return []
    const found = await sql<Identified>`select id, revision from ${sql.table(subject)} where id = any(${ids})`.execute(this.db)
    return found.rows
  }

  async remove<S extends Subject>(subject: S, rows: readonly { id: number }[]) {
    const ids = rows.map(({ id }) => id)
    if (ids.length === 0) return
    const gone = sql`delete from ${sql.table(subject)} where id = any(${ids}) returning *`
    await this.run(sql`with gone as (${gone}) ${this.noting(subject, 'removed', sql`select id, to_jsonb(gone) as before from gone`)}`)
  }

  private inserted<S extends Subject>(subject: S, things: readonly New<S>[], seen: boolean, told?: Told) {
    return this.inParts(subject, things, told, ({ table, columns, given }) => {
      const made = sql`insert into ${table} (${columns}) select ${columns} from ${given} returning ${seen ? sql`*` : sql.ref('id')}`
      const noting = this.noting(subject, 'made', sql`select id, null::jsonb as before from made`)
      return sql`with made as (${made}) ${seen ? sql`, noted as (${noting}) select * from made order by id` : noting}`
    })
  }

  private updated<S extends Subject>(subject: S, things: readonly (Partial<DraftOf[S]> & { id: number })[], seen: boolean, told?: Told) {
    return this.inParts(subject, things, told, ({ table, columns, given, names }) => {
      const set = sql.join(names.filter((name) => name !== 'id').map((name) => sql`${sql.ref(name)} = given.${sql.ref(name)}`))
      const old = sql`select ${table}.* from ${table} join given on given.id = ${table}.id`
      const made = sql`update ${table} set ${set} from given where ${table}.id = given.id returning ${table}.*`
      const noting = this.noting(subject, 'changed', sql`select id, to_jsonb(old) as before from old`)
      const rows = seen ? sql`, noted as (${noting}) select * from made order by id` : noting
      return sql`with given as (select ${columns} from ${given}), old as (${old}), made as (${made}) ${rows}`
    })
  }

  /** All of the things have the same fields. */
  private async inParts(
    subject: Subject,
    things: readonly object[],
    told: Told = () => {},
    statement: (parts: Parts) => RawBuilder<unknown>,
  ): Promise<unknown[]> {
    const seen: unknown[] = []
    let before: Promise<unknown[]> = Promise.resolve([])
    for (let at = 0; at < things.length; at += inOneStatement) {
      const part = things.slice(at, at + inOneStatement)
      const next = statement(this.partOf(subject, part))
      seen.push(...(await before))
      before = this.run(next)
      before.catch(() => {})
      // on its way to the database before the next part is made
      await nextTurn()
      told(part.length)
    }
    seen.push(...(await before))
    return seen
  }

  private partOf(subject: Subject, things: readonly object[]): Parts {
    const rows = things.map((thing) => ({ ...columnsOf(subject, thing as never), revision: this.revision }))
    const names = Object.keys(rows[0]!)
    const table = sql.table(subject)
    const columns = sql.join(names.map((name) => sql.ref(name)))
    // the row type of the table says what each column is
    const given = sql`jsonb_populate_recordset(null::${table}, ${JSON.stringify(rows)}::jsonb)`
    return { table, columns, given, names }
  }

  /** A thing that changes twice in one revision is kept as it was before the first. */
  private noting(subject: Subject, what: ChangeTable['what'], changed: RawBuilder<unknown>) {
    return sql`
      insert into change (revision, subject, thing, what, before)
      select ${this.revision}::int, ${subject}::text, id, ${what}::text, before from (${changed}) as changed
      on conflict (revision, subject, thing) do update set what = case change.what when 'made' then 'made' else excluded.what end`
  }

  private async run(statement: RawBuilder<unknown>): Promise<unknown[]> {
    const { rows } = await statement.execute(this.db)
    return rows
  }
}

type Told = (more: number) => void

interface Parts {
  table: RawBuilder<unknown>
  columns: RawBuilder<unknown>
  given: RawBuilder<unknown>
  names: readonly string[]
}
