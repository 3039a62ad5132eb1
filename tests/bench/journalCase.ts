import { Kysely, PostgresDialect, sql } from 'kysely'
import pg from 'pg'
import type { EntriesAsked } from '#core/journal/paged'
import type { Database } from '#db/tables'
import { mostCounted } from '#shared/api/lists'
import { databaseIn, startCluster } from '../support/cluster'
import { milliseconds, times, type Section } from './report'

const entries = 5_000_000
const rounds = 5

interface Question {
  what: string
  asked: Omit<EntriesAsked, 'offset' | 'limit'>
  /** What a script would ask of a table that holds lines. */
  where: string
}
const questions: Question[] = [
  { what: 'the newest 100', asked: {}, where: 'true' },
  { what: 'a word that 50 of them hold', asked: { find: 'kestrel' }, where: `text ilike '%kestrel%'` },
  { what: 'two words that every fiftieth holds', asked: { find: 'silent 17' }, where: `text ilike '%silent%' and text ilike '%17%'` },
  { what: 'a word that none holds', asked: { find: 'albatross' }, where: `text ilike '%albatross%'` },
  { what: 'troubles of one link', asked: { severity: 'trouble', source: 'Link 3' }, where: `severity = 'trouble' and source = 'Link 3'` },
]

/** A year of events of forty links, a hundredth of them troubles. */
const fill = async (db: Kysely<Database>) => {
  // made at once it takes a tenth of the time
  await sql`drop index journal_words`.execute(db)
  await sql`
    insert into journal (at, last_at, severity, source, text)
    select at, at, (case when i % 100 = 0 then 'trouble' when i % 7 = 0 then 'caution' else 'note' end), 'Link ' || i % 40,
      case when i % 100000 = 77 then 'The kestrel sensor at berth ' || i % 9 || ' gives nothing usable.'
        when i % 3 = 0 then 'Unit ' || i % 50 || ' is silent; it is left out of the round for 30 s at a time.'
        when i % 3 = 1 then 'Unit ' || i % 50 || ' answers again, and is back in the round.'
        else 'Berth ' || i % 9 || ': reading ' || i || ' is out of its range.' end
    from generate_series(1, ${entries}::int) as i, lateral (select now() - make_interval(secs => (${entries} - i) * 6.3)) as moment (at)`.execute(
    db,
  )
  await sql`create index journal_words on journal using gin (words gin_trgm_ops)`.execute(db)
  await sql`create table lines (id bigint primary key, at timestamptz, severity text, source text, text text)`.execute(db)
  await sql`insert into lines select id, at, severity, source, text from journal`.execute(db)
  await sql`create index on lines (at)`.execute(db)
  await sql`vacuum analyze journal`.execute(db)
  await sql`vacuum analyze lines`.execute(db)
}

const middleOf = async (work: () => Promise<unknown>, count: number): Promise<number> => {
  const took: number[] = []
  for (let i = 0; i < count; i++) {
    const begun = performance.now()
    await work()
    took.push(performance.now() - begun)
  }
  return took.toSorted((a, b) => a - b)[took.length >> 1]!
}

export const journalCase = async (): Promise<Section> => {
  const cluster = await startCluster()
  const { url, db: prepared } = await databaseIn(cluster.url)
  await prepared.destroy()
  // to fill it takes longer than a question may
  const db = new Kysely<Database>({ dialect: new PostgresDialect({ pool: new pg.Pool({ connectionString: url }) }) })
  await fill(db)
  process.env.CONDUIT_DATABASE = url
  const { journalPage, journalPicture } = await import('../../server/journal/entries')
  const { closeDatabase } = await import('../../server/store/database')
  const rows: Section['rows'] = []
  for (const { what, asked, where } of questions) {
    const ours = await middleOf(() => journalPage({ ...asked, offset: 0, limit: 100 }, '-id'), rounds)
    const plain = await middleOf(async () => {
      await sql`select * from lines where ${sql.raw(where)} order by id desc limit 100`.execute(db)
      await sql`select count(*) from (select 1 from lines where ${sql.raw(where)} limit ${mostCounted}) as found`.execute(db)
    }, 3)
    rows.push({ what, ours: milliseconds(ours), plain: milliseconds(plain), ratio: times(plain / ours), aim: 'under 300 ms' })
  }
  for (const [what, days, find] of [
    ['the picture of the last day', 1, ''],
    ['the picture of all', 400, ''],
    ['the picture of a word', 400, 'kestrel'],
  ] as const) {
    const from = Date.now() - days * 86_400_000
    const ours = await middleOf(() => journalPicture({ from, find }), rounds)
    const plain = await middleOf(
      () =>
        sql`select date_trunc('day', at) as day, severity, count(*) from lines
          where at >= ${new Date(from)} and text ilike ${`%${find}%`} group by 1, 2`.execute(db),
      3,
    )
    rows.push({ what, ours: milliseconds(ours), plain: milliseconds(plain), ratio: times(plain / ours), aim: '—' })
  }
  await closeDatabase()
  await db.destroy()
  await cluster.stop()
  return {
    title: 'A journal of 5,000,000 events',
    how: 'The newest hundred that match and how many match, up to 5,000, as the page asks for them; the middle of five. Plain: the same questions to a table with the same lines, by key and by time indexed, the middle of three.',
    rows,
  }
}
