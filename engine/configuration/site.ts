import { siteFacts, type SiteFacts } from '#shared/siteFacts'
import { isReferredTo, readStored, subjectsInOrder, type Subject, type ThingOf } from '#db/subjects'

/** Everything that is configured, by id: how it is meant to be. What is in force, the engine knows. */
export interface Configuration {
  revision: number
  site: SiteFacts
  things: { [S in Subject]: Map<number, ThingOf[S]> }
}

export interface Part<T> {
  set: T[]
  removed: number[]
}

/** Something stored that cannot be read: what was in force of it stays. */
export interface Unread {
  subject: Subject
  id: number
  name: string
  revision: number
  problem: string
}

/** What became different, up to a revision. */
export interface Difference {
  revision: number
  /** Null: nothing is known of it. */
  site: SiteFacts | null
  parts: { [S in Subject]: Part<ThingOf[S]> }
  unread: Unread[]
}

const each = <T>(make: (subject: Subject) => T) => Object.fromEntries(subjectsInOrder().map((subject) => [subject, make(subject)])) as never

export const emptyConfiguration = (): Configuration => ({
  revision: 0,
  site: siteFacts.parse({ name: '', zone: '' }),
  things: each(() => new Map()),
})
export const nothingDifferent = (revision: number, site: unknown = null): Difference => ({
  revision,
  site: siteFacts.nullable().catch(null).parse(site),
  parts: each(() => ({ set: [], removed: [] })),
  unread: [],
})

/** Reads one stored thing into a difference. */
export const addStored = <S extends Subject>(to: Difference, subject: S, stored: unknown) => {
  const read = readStored(subject, stored)
  if (read.ok) to.parts[subject].set.push(read.thing)
  else to.unread.push({ subject, id: read.id, name: read.name, revision: read.revision, problem: read.problem })
}

/**
 * What a reading of everything brings, beside what is known: equal revisions mean equal things, since
 * each carries the revision that last changed it. What cannot be read is not taken for removed.
 */
export const newsIn = (all: Difference, known: Configuration): Difference => {
  const news = { ...nothingDifferent(all.revision, all.site), unread: all.unread }
  const unread = new Set(all.unread.map(({ subject, id }) => `${subject} ${id}`))
  for (const subject of subjectsInOrder()) addNews(subject, all, known, news, unread)
  return news
}

const addNews = <S extends Subject>(subject: S, all: Difference, known: Configuration, news: Difference, unread: Set<string>) => {
  const before = known.things[subject]
  const { set } = all.parts[subject]
  const present = new Set<number>()
  for (const thing of set) {
    present.add(thing.id)
    if (before.get(thing.id)?.revision !== thing.revision) news.parts[subject].set.push(thing)
  }
  for (const id of before.keys()) if (!present.has(id) && !unread.has(`${subject} ${id}`)) news.parts[subject].removed.push(id)
}

/** Brings what is known up to a difference, in place: its cost is that of the difference. */
export const bringTo = (known: Configuration, difference: Difference) => {
  known.revision = difference.revision
  known.site = difference.site ?? known.site
  for (const subject of subjectsInOrder()) bringPart(known.things[subject] as Map<number, ThingOf[Subject]>, difference.parts[subject])
}

const bringPart = <T extends { id: number }>(known: Map<number, T>, { set, removed }: Part<T>) => {
  for (const id of removed) known.delete(id)
  for (const thing of set) known.set(thing.id, thing)
}

/** How the engine brings one kind of thing into force. */
export interface Applier<T> {
  set?(things: readonly T[]): void | Promise<void>
  removed?(ids: readonly number[]): void | Promise<void>
}
/** What the engine has nothing to do with has none. */
export type Appliers = { [S in Subject]?: Applier<ThingOf[S]> }

/**
 * Hands a difference on, in an order in which each thing meets what it refers to: what others refer to comes
 * first and goes last; of all else, what is gone makes room for what comes.
 */
export const bringIntoForce = async (parts: Difference['parts'], appliers: Appliers) => {
  const order = subjectsInOrder()
  const parting = order.filter(isReferredTo).reverse()
  for (const subject of order) {
    if (!parting.includes(subject)) await remove(subject, parts, appliers)
    await set(subject, parts, appliers)
  }
  for (const subject of parting) await remove(subject, parts, appliers)
}

const set = <S extends Subject>(subject: S, parts: Difference['parts'], appliers: Appliers) =>
  parts[subject].set.length > 0 ? appliers[subject]?.set?.(parts[subject].set) : undefined
const remove = <S extends Subject>(subject: S, parts: Difference['parts'], appliers: Appliers) =>
  parts[subject].removed.length > 0 ? appliers[subject]?.removed?.(parts[subject].removed) : undefined
