import { runBundled, startChild } from './child'
import { perSecond, times, type Section } from './report'

export const cloudCase = async (): Promise<Section> => {
  const { child, first: port } = await startChild<number>('cloudDoor.ts')
  const { ours, plain, values } = await runBundled<{ ours: number; plain: number; values: number }>('cloud.ts', {
    CONDUIT_BENCH_PORT: String(port),
  })
  child.kill()
  return {
    title: 'Values to a platform over HTTP',
    how: `${values.toLocaleString('en-GB')} changes of 1,000 tags, until the platform has the last one; the platform is in a process of its own, and the same for both. Ours: from the tag table over the disk, each parcel kept until it was taken. Plain: a script that packs 5,000 values at a time from lists that are ready, with \`fetch\` and gzip, and keeps nothing.`,
    rows: [{ what: 'values a second', ours: perSecond(ours), plain: perSecond(plain), ratio: times(ours / plain), aim: 'at least 0.5' }],
  }
}
