import { databaseIn, startCluster } from '../support/cluster'
import { runBundled } from './child'
import { milliseconds, perSecond, times, type Section } from './report'

interface Measured {
  table: { ours: number; seconds: number; plain: number }
  rollups: { told: number; perCore: number; plain: number }
  write: { ours: number; plain: number }
  dayOf20: { ours: number; plain: number }
  long: { ours: number; plain: number }
  days: number
}

export const pastCase = async (): Promise<Section> => {
  const cluster = await startCluster()
  const { url, db } = await databaseIn(cluster.url)
  await db.destroy()
  const { table, rollups, write, dayOf20, long, days } = await runBundled<Measured>('past.ts', { CONDUIT_BENCH_DATABASE: url })
  await cluster.stop()
  return {
    title: 'What was recorded, rollups, and equipment from a table',
    how: `Samples a second from the tag table over the disk into the database, buckets and the note of each parcel included, against COPY of rows that are ready into a table with the same index. A picture of 1,200 columns against the least and the most of each column asked for in SQL, the middle of five. Rollups of a second (five kinds, ten samples each) that a core works out in a second, with reading, converting and passing on, beside bare lists in a script that neither reads nor tells anything. ${table.seconds.toFixed(1)} s for 1,000 pieces of equipment with 20,000 tags from CSV, against one piece after the other.`,
    rows: [
      { what: 'recording a million samples of 1,000 tags', ours: perSecond(write.ours), plain: perSecond(write.plain), ratio: times(write.ours / write.plain), aim: 'at least 0.5, over 100,000/s' },
      { what: 'a day of 20 tags at 1 s', ours: milliseconds(dayOf20.ours), plain: milliseconds(dayOf20.plain), ratio: times(dayOf20.plain / dayOf20.ours), aim: 'over 20, under 200 ms' },
      { what: `${days} days of one tag at 1 s`, ours: milliseconds(long.ours), plain: milliseconds(long.plain), ratio: times(long.plain / long.ours), aim: 'over 20, under 200 ms' },
      { what: 'rollups on one core', ours: perSecond(rollups.perCore), plain: perSecond(rollups.plain), ratio: '—', aim: 'over 5,000/s' },
      { what: 'pieces of equipment from a table', ours: perSecond(table.ours), plain: perSecond(table.plain), ratio: times(table.ours / table.plain), aim: '1,000 in under 10 s' },
    ], // prettier-ignore
  }
}
