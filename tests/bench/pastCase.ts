import { databaseIn, startCluster } from '../support/cluster'
import { runBundled } from './child'
import { milliseconds, perSecond, times, type Section } from './report'

interface Sides {
  ours: number
  plain: number
}
interface Measured {
  table: Sides & { seconds: number }
  write: Sides
}

/** @param rounds of the plain side; ours is the middle of nine */
const drawn = async (server: string, series: number, days: number, rounds: number): Promise<Sides> => {
  const { url, db } = await databaseIn(server)
  await db.destroy()
  return runBundled<Sides>('drawn.ts', { CONDUIT_BENCH_DATABASE: url, CONDUIT_BENCH_DRAWN: `${series} ${days} ${rounds}` })
}

const pictureRow = (what: string, { ours, plain }: Sides) => ({
  ...{ what, ours: milliseconds(ours), plain: milliseconds(plain), ratio: times(plain / ours), aim: 'over 20, under 200 ms' },
})

export const pastCase = async (): Promise<Section> => {
  const cluster = await startCluster()
  const { url, db } = await databaseIn(cluster.url)
  await db.destroy()
  const { table, write } = await runBundled<Measured>('past.ts', { CONDUIT_BENCH_DATABASE: url })
  const day = await drawn(cluster.url, 20, 1, 5)
  await cluster.stop()
  const { tumbling, slid } = await runBundled<{ tumbling: Sides; slid: Sides }>('rolled.ts')
  const perCore = ({ ours, plain }: Sides) => ({ ours: perSecond(ours), plain: perSecond(plain), ratio: '—', aim: 'over 5,000/s' })
  return {
    title: 'What was recorded, rollups, and equipment from a table',
    how: `Samples a second from the tag table over the disk into the database, buckets and the note of each parcel included, against COPY of rows that are ready into a table with the same index. A picture of 1,200 columns, the middle of nine, against the least and the most of each column asked for in SQL, the middle of five. Rollups told every second (five kinds, ten samples a second each) that a core works out in a second, with reading, converting and passing on, beside bare lists in a script that neither reads nor tells anything; the last ones over the last minute. ${table.seconds.toFixed(1)} s for 1,000 pieces of equipment with 20,000 tags from CSV, against one piece after the other.`,
    rows: [
      { what: 'recording a million samples of 1,000 tags', ours: perSecond(write.ours), plain: perSecond(write.plain), ratio: times(write.ours / write.plain), aim: 'at least 0.5, over 100,000/s' },
      pictureRow('a day of 20 tags at 1 s', day),
      { what: 'rollups on one core', ...perCore(tumbling) },
      { what: 'rollups of a minute that slides by seconds', ...perCore(slid) },
      { what: 'pieces of equipment from a table', ours: perSecond(table.ours), plain: perSecond(table.plain), ratio: times(table.ours / table.plain), aim: '1,000 in under 10 s' },
    ], // prettier-ignore
  }
}

/** Making it takes many minutes. */
export const yearCase = async (): Promise<Section> => {
  const cluster = await startCluster()
  const year = await drawn(cluster.url, 1, 365, 1)
  await cluster.stop()
  return {
    title: 'A year of one tag',
    how: 'A sample a second, 31.5 million of them. A picture of 1,200 columns, the middle of nine, against the least and the most of each column asked for in SQL, once.',
    rows: [pictureRow('a year of one tag at 1 s', year)],
  }
}
