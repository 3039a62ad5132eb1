import { sql, type SqlBool } from 'kysely'
import type { EntryFilter, KeptEntry } from '#core/journal/entry'
import { foldedForMs } from '#core/journal/folding'
import type { EntriesAsked } from '#core/journal/paged'
import { barsOf, barWidth, mostPictured, type Bar, type CountedMoment } from '#core/journal/picture'
import { wordsOf, type Page } from '#core/lists/paged'
import type { JournalEntry } from '#shared/journal'
import { countOf } from '../answers/page'
import { containing } from '../store/likeText'
import { mostCounted } from '#shared/api/lists'
import { engineClient } from '../runtime/engineClient'
import { database } from '../store/database'

/** What the engine has in memory only; null: events are in the database. Refused where they are in an engine that is away. */
const inMemory = async () => {
  const { where } = await database()
    .selectFrom('site')
    .select(sql<string | null>`journal->>'where'`.as('where'))
    .executeTakeFirstOrThrow()
  return where === 'memory' ? engineClient.call((engine) => engine.journalMemory()) : null
}

const columns = ['id', 'at', 'severity', 'source', 'text', 'fault', 'times', 'last_at'] as const

const holdingWords = (words: readonly string[]) =>
  sql<SqlBool>`${sql.join(
    words.map((word) => sql`words like lower(${containing(word)})`),
    sql` and `,
  )}`

const matchingRows = ({ find, severity, source, from, to }: EntryFilter) =>
  database()
    .selectFrom('journal')
    .$if(severity !== undefined, (q) => q.where('severity', '=', severity!))
    .$if(source !== undefined, (q) => q.where('source', '=', source!))
    // what is folded began at most so long before; the index goes by when it began
    .$if(from !== undefined, (q) => q.where('at', '>=', new Date(from! - foldedForMs)).where('last_at', '>=', new Date(from!)))
    .$if(to !== undefined, (q) => q.where('at', '<', new Date(to!)))
    .$if(wordsOf(find).length > 0, (q) => q.where(holdingWords(wordsOf(find))))

/** A page of entries, the newest first unless said otherwise. */
export const journalPage = async (asked: EntriesAsked, sort: string): Promise<Page<KeptEntry>> => {
  if (await inMemory()) return engineClient.call((engine) => engine.journalPage(asked))
  const { before, offset, limit, ...filter } = asked
  const matching = matchingRows(filter).$if(before !== undefined, (q) => q.where('id', '<', before!))
  const by = sort.includes('source') ? ('source' as const) : ('id' as const)
  const way = sort.startsWith('-') ? 'desc' : 'asc'
  const rows = matching
    .select(columns)
    .$if(by === 'source', (q) => q.orderBy('source', way))
    .orderBy('id', way)
  // in their order: for a frequent word going through them one by one is quicker than an index of words, and with an order it is chosen
  const newest = matching.select('id').orderBy('id', 'desc')
  const [total, items] = await Promise.all([countOf(newest, mostCounted), rows.offset(offset).limit(limit).execute()])
  return { total, offset, items: items.map(({ at, last_at, ...row }) => ({ ...row, at: at.getTime(), lastAt: last_at.getTime() })) }
}

export const asListed = ({ at, lastAt, ...entry }: KeptEntry): JournalEntry => ({
  ...entry,
  at: new Date(at).toISOString(),
  lastAt: new Date(lastAt).toISOString(),
})

export interface Picture {
  width: number
  bars: Bar[]
  isWhole: boolean
}

/** How often something happened over time. Without a span: from the first that matches until now. */
export const journalPicture = async (filter: EntryFilter): Promise<Picture> => {
  const memory = await inMemory()
  const span = memory ? { from: memory.oldest, isWhole: true } : await pictured(filter)
  const to = filter.to ?? Date.now()
  const from = Math.max(filter.from ?? 0, span.from ?? to)
  const width = barWidth(Math.max(1, to - from))
  const shown = { ...filter, from }
  const counted = memory ? await engineClient.call((engine) => engine.journalBars(shown, width)) : await countedRows(shown, width)
  return { width, bars: barsOf(counted, from, to, width), isWhole: span.isWhole }
}

/** From when on a picture counts: all that matches, or the newest of it. */
const pictured = async (filter: EntryFilter): Promise<{ from: number | null; isWhole: boolean }> => {
  const nth = (n: number) => matchingRows(filter).select('at').orderBy('at', 'desc').offset(n).limit(1).executeTakeFirst()
  const tooOld = await nth(mostPictured)
  if (tooOld) return { from: tooOld.at.getTime(), isWhole: false }
  const oldest = await matchingRows(filter).select('at').orderBy('at', 'asc').limit(1).executeTakeFirst()
  return { from: oldest?.at.getTime() ?? null, isWhole: true }
}

const countedRows = async (filter: EntryFilter, width: number): Promise<CountedMoment[]> => {
  const begin = sql<number>`(floor(extract(epoch from at) * 1000 / ${width}::float8) * ${width}::float8)::float8`
  const rows = await matchingRows(filter)
    .select([begin.as('begin'), 'severity', sql<number>`sum(times)::float8`.as('times')])
    .groupBy([sql`1`, 'severity'])
    .execute()
  return rows.map(({ begin, severity, times }) => ({ at: begin, severity, times }))
}
