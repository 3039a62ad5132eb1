import { databaseIn, startCluster } from '../support/cluster'
import { runBundled } from './child'
import { milliseconds, perSecond, times, type Section } from './report'

const rows = 5000

type Measured = Record<'first' | 'again' | 'moves', number>

export const setsCase = async (): Promise<Section> => {
  const cluster = await startCluster()
  const { url, db } = await databaseIn(cluster.url)
  await db.destroy()
  const { set, script } = await runBundled<Record<'set' | 'script', Measured>>('sets.ts', {
    CONDUIT_BENCH_ROWS: String(rows),
    CONDUIT_BENCH_DATABASE: url,
  })
  await cluster.stop()
  return {
    title: 'A table of 50,000 cells as tags, and a row that is moved',
    how: `${rows.toLocaleString('en-GB')} rows of ten columns of PostgreSQL, each cell a tag. First: all of it is read with every tag waiting. Again: ten rows changed since, median of 15. Plain: a script with \`pg\` that reads the same rows and compares them with a map of what it had. A move: to another row by its number, awaited, one after the other; plain: the row asked for by its key and put into an object.`,
    rows: [
      {
        what: 'first reading',
        ours: milliseconds(set.first),
        plain: milliseconds(script.first),
        ratio: times(set.first / script.first),
        aim: 'at most 1.2 ×',
      },
      {
        what: 'again, ten rows changed',
        ours: milliseconds(set.again),
        plain: milliseconds(script.again),
        ratio: times(set.again / script.again),
        aim: 'at most 1.2 ×',
      },
      {
        what: 'moves of a cursor',
        ours: perSecond(set.moves),
        plain: perSecond(script.moves),
        ratio: times(set.moves / script.moves),
        aim: 'over 500/s',
      },
    ],
  }
}
