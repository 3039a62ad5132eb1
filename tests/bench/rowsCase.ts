import { databaseIn, startCluster } from '../support/cluster'
import type { ChildProcess } from 'node:child_process'
import { forkBundled, startChild } from './child'
import { perSecond, times, type Section } from './report'

const count = 50_000

interface Told {
  send?: number
  result?: Record<'bridge' | 'script' | 'copy', number>
}

/** What is measured says when messages are to be sent. */
const measured = async ({ child: quay, first: port }: { child: ChildProcess; first: number }, url: string) => {
  const child = await forkBundled('rows.ts', {
    CONDUIT_BENCH_COUNT: String(count),
    CONDUIT_BENCH_DATABASE: url,
    CONDUIT_BENCH_PORT: String(port),
  })
  return new Promise<Record<'bridge' | 'script' | 'copy', number>>((resolve) =>
    child.on('message', ({ send, result }: Told) => {
      if (send !== undefined) quay.send(send)
      if (result) resolve(result)
    }),
  )
}

export const rowsCase = async (): Promise<Section> => {
  const cluster = await startCluster()
  const { url, db } = await databaseIn(cluster.url)
  await db.destroy()
  const quay = await startChild<number>('quaySender.ts')
  const { bridge, script, copy } = await measured(quay, url)
  quay.child.kill()
  await cluster.stop()
  return {
    title: `${count.toLocaleString('en-GB')} messages of a topic to rows of a table, kept until delivered`,
    how: 'Rows a second, from the first message (QoS 1) to the last row. The far side is as lean as can be, in a process of its own, and the same for both: it sends on as it is confirmed, 500 at a time. Each message is taken apart into five columns and lies on the disk before the broker hears that we have it. Plain: a script with `mqtt` and `pg` that inserts each message as it comes and keeps nothing; and COPY of rows that are ready, without any message.',
    rows: [
      { what: 'against a script', ours: perSecond(bridge), plain: perSecond(script), ratio: times(bridge / script), aim: 'over 8' },
      { what: 'against COPY', ours: perSecond(bridge), plain: perSecond(copy), ratio: times(bridge / copy), aim: 'over 0.5' },
    ],
  }
}
