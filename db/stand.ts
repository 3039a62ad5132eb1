import type { Kysely } from 'kysely'
import type { Database } from './tables'

/** What tells one revision from another one of the same number. */
export interface Mark {
  revision: number
  /** When it was made, by the database: Unix milliseconds; null: not known. */
  at: number | null
}

/** How far a database is, and whether it knows a revision that somebody else knows. */
export interface Stand {
  name: string
  newest: { revision: number; at: number; who: string; what: string }
  /** Of the revision that was asked about: when it was made here; null: there is none of that number, or nothing was asked. */
  knownAt: number | null
  /** Up to which revision everything is forgotten. */
  forgotten: number
}

const none = { number: 0, at: new Date(0), who: '', what: '' }

export const standOf = async (db: Kysely<Database>, known: number): Promise<Stand> => {
  const site = await db.selectFrom('site').select(['name', 'revision', 'forgotten']).executeTakeFirstOrThrow()
  const found = await db
    .selectFrom('revision')
    .select(['number', 'at', 'who', 'what'])
    .where('number', 'in', [site.revision, known])
    .execute()
  const newest = found.find(({ number }) => number === site.revision) ?? none
  const asked = found.find(({ number }) => number === known)
  return {
    ...{ name: site.name, forgotten: site.forgotten },
    newest: { revision: site.revision, at: newest.at.getTime(), who: newest.who, what: newest.what },
    knownAt: asked ? asked.at.getTime() : null,
  }
}

/**
 * Whether a database is what became of what is in force: it has that revision, made at the same time, or one so much later that it
 * is forgotten. Otherwise it is another one, or was restored to how it was earlier.
 */
export const isContinuation = ({ newest, knownAt, forgotten }: Stand, inForce: Mark | null): boolean => {
  if (inForce === null || inForce.revision === 0) return true
  if (newest.revision < inForce.revision) return false
  if (inForce.at === null) return true
  return knownAt === null ? inForce.revision <= forgotten : knownAt === inForce.at
}
