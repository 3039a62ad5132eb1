import { afterEach, describe, expect, it } from 'vitest'
import { changeConfiguration } from '#db/configuration'
import type { Engine } from '#engine/engine'
import { PathBook } from '#engine/diagnosis/pathBook'
import { PathWatch } from '#engine/diagnosis/pathWatch'
import { linkContract } from '#shared/links/link'
import { closeAll, databaseFor, engineOn, linkTo, powerTag, type Closing } from '../support/engineOn'
import { canMakeNetworks, Network } from '../support/networks'
import { testSecurity } from '../support/security'
import { until } from '../support/until'

/** Links that work whenever somebody looks, and break again and again. */

const closing: Closing = []
afterEach(() => closeAll(closing))

/** A meter behind a router, asked every so many ms; its checks, none of which anybody asked for, until this cause comes first. */
const unsteadyMeter = async (interval: number, spoil: (network: Network) => void, cause: string) => {
  const network = new Network(true)
  closing.push(() => Promise.resolve(network.close()))
  await network.run('tests/support/meterProcess.ts', '502')
  const database = await databaseFor(closing)
  const { engine, qualityOf } = await engineOn(closing, database)
  const book = new PathBook(null)
  const paths = new PathWatch({ engine, security: await testSecurity(), book })
  closing.push(() => Promise.resolve(paths.close()))
  const patience = { connect: 2500, answer: 400, retryFirst: 100, retryMost: 200 }
  const leaveOut = { after: 3, for: 1000 }
  const settings = { ...linkTo(502).settings, host: network.far, interval, patience, leaveOut }
  const { result } = await changeConfiguration(database.db, 'test', 'made', async (editor) => {
    const [link] = await editor.insert('link', [linkContract.parse({ ...linkTo(502), settings })])
    const [tag] = await editor.insert('tag', [powerTag(link!.id, 'berth/4/power')])
    return { link: link!, tag: tag! }
  })
  await until(() => qualityOf(result.tag.id) === 0)
  spoil(network)
  const causes = () => book.of('link', result.link.id).flatMap(({ verdict }) => verdict?.causes[0] ?? [])
  // twice, so that it broke more often than that
  await until(causes, (all) => all.filter(({ id }) => id === cause).length > 1, 150)
  return { first: causes().find(({ id }) => id === cause)!, walk: () => walkedWhileItWorks(paths, engine, result.link.id) }
}

/** Walked once: a check keeps a connection in use. */
const walkedWhileItWorks = async (paths: PathWatch, engine: Engine, id: number) => {
  await until(() => engine.link(id)!.flow === 'flowing')
  for await (const part of paths.walkLink(id, engine.link(id)!, new AbortController().signal, 'asked'))
    if ('verdict' in part) return part.verdict
  return null
}

describe.skipIf(!canMakeNetworks)('a link that comes and goes', () => {
  it('over a router that forgets connections is told by the pauses before each break', async () => {
    const { first, walk } = await unsteadyMeter(6000, (network) => network.forgetAfter(3), 'idle-cut')
    expect(first).toMatchObject({ side: 'network', title: expect.stringContaining('forgets connections') })
    expect(first.for[0]).toMatch(/^each of the last \d times it broke at the first message after a pause \(of [56](\.\d)? s or more\)$/)
    // also where everything works at the moment
    const verdict = await walk()
    expect(verdict).toMatchObject({ step: 'steady' })
    expect(verdict!.causes[0]!.id).toBe('idle-cut')
  }, 180_000)

  it('over a cable that loses packets is told by a series of echo requests', async () => {
    const lossy = (network: Network) => void network.filter('router', 'forward', 'numgen random mod 100 < 25 drop')
    const { first } = await unsteadyMeter(100, lossy, 'packets-lost')
    expect(first.side).toBe('network')
    expect(first.for[0]).toMatch(/^\d+ of 10 echo requests were lost$/)
  }, 180_000)
})
