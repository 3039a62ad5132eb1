import { sql, type Kysely } from 'kysely'
import { isSubject, nameOf, readStored, subjectsInOrder, type Subject } from './subjects'
import type { ChangeTable, Database } from './tables'

/** What a revision did to one thing, as rows of its table before and after; null: it was not, or is no more, there. */
export interface ThingChange {
  subject: Subject
  thing: number
  what: ChangeTable['what']
  before: unknown
  after: unknown
}

interface Asked {
  /** Patterns of `like` that the name of the thing has to fit, all of them. */
  names: readonly string[]
  offset: number
  limit: number
  isDown: boolean
}

interface Found {
  subject: string
  thing: number
  what: ChangeTable['what']
  before: unknown
  after: unknown
}

/** The changes of a revision, by subject and number; how a thing was afterwards is what its next change found, or what it is now. */
export const changesOfRevision = async (
  db: Kysely<Database>,
  number: number,
  asked: Asked,
): Promise<{ total: number; changes: ThingChange[] }> => {
  const { names, offset, limit, isDown } = asked
  const now = sql.join(
    subjectsInOrder().map((subject) => sql`when ${subject} then (select to_jsonb(t) from ${sql.table(subject)} as t where t.id = c.thing)`),
    sql` `,
  )
  const changes = sql`
    select c.subject, c.thing, c.what, c.before,
      case when c.what = 'removed' then null when n.revision is not null then n.before else case c.subject ${now} end end as after
    from change as c
    left join lateral (
      select revision, before from change
      where subject = c.subject and thing = c.thing and revision > c.revision
      order by revision limit 1
    ) as n on true
    where c.revision = ${number}`
  const name = sql`coalesce(before ->> 'path', before ->> 'name', after ->> 'path', after ->> 'name', '')`
  const fits =
    names.length > 0
      ? sql.join(
          names.map((pattern) => sql`${name} ilike ${pattern}`),
          sql` and `,
        )
      : sql`true`
  const matching = sql`from (${changes}) as changes where ${fits}`
  const way = sql.raw(isDown ? 'desc' : 'asc')
  const { rows } = await sql<Found>`select * ${matching} order by subject ${way}, thing ${way} offset ${offset} limit ${limit}`.execute(db)
  const counted = await sql<{
    total: number
  }>`select count(*)::int as total ${names.length > 0 ? matching : sql`from change where revision = ${number}`}`.execute(db)
  return {
    total: counted.rows[0]!.total,
    changes: rows.flatMap((row) => (isSubject(row.subject) ? [{ ...row, subject: row.subject }] : [])),
  }
}

/** A thing as it was kept, without what marks it; null: it was not there, or cannot be read. */
export const thingIn = (subject: Subject, stored: unknown): { name: string; thing: Record<string, unknown> } | null => {
  if (stored === null) return null
  const read = readStored(subject, stored)
  if (!read.ok) return null
  const { id: _id, revision: _revision, ...thing } = read.thing as unknown as Record<string, unknown>
  return { name: nameOf(subject, read.thing), thing }
}
