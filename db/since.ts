import { sql, type Kysely } from 'kysely'
import { subjectsInOrder, type Subject } from './subjects'
import type { Database } from './tables'

export interface ChangedThings {
  subject: Subject
  /** How they are now, as rows. */
  rows: Record<string, unknown>[]
  removed: number[]
}

export interface Since {
  site: { name: string; fileRoots: string[]; history: object; journal: object; zone: string; nodeDoor: object | null; isCase: boolean }
  /** Up to which revision. */
  revision: number
  things: ChangedThings[]
}

/** Whether the site looks at the case of another one. */
export const isCase = sql<boolean>`case_of is not null`.as('isCase')

/**
 * What is different since a revision: of each thing that was touched, how it is now, or that it is gone. Null where that is
 * no better than reading everything, or what happened since is forgotten.
 *
 * @param most things
 */
export const changedSince = (db: Kysely<Database>, from: number, most: number, subjects = subjectsInOrder()): Promise<Since | null> =>
  db
    .transaction()
    .setIsolationLevel('repeatable read')
    .execute(async (db) => {
      const { revision, forgotten, ...site } = await db
        .selectFrom('site')
        .select(['revision', 'forgotten', 'name', 'fileRoots', 'history', 'journal', 'zone', 'nodeDoor', isCase])
        .executeTakeFirstOrThrow()
      if (from < forgotten) return null
      const touched = await db
        .selectFrom('change')
        .select(['subject', 'thing'])
        .distinct()
        .where('revision', '>', from)
        .where('subject', 'in', subjects)
        .limit(most + 1)
        .execute()
      if (touched.length > most) return null
      const things: ChangedThings[] = []
      for (const subject of subjects) {
        const ids = touched.filter((one) => one.subject === subject).map(({ thing }) => thing)
        if (ids.length === 0) continue
        const { rows } = await sql<{ id: number }>`select * from ${sql.table(subject)} where id = any(${ids}) order by id`.execute(db)
        const present = new Set(rows.map(({ id }) => id))
        things.push({ subject, rows, removed: ids.filter((id) => !present.has(id)) })
      }
      return { revision, site, things }
    })
