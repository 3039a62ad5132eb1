import { createServer } from 'node:http'
import { afterEach, expect, it } from 'vitest'
import { changeConfiguration } from '#db/configuration'
import { PathBook } from '#engine/diagnosis/pathBook'
import { PathWatch } from '#engine/diagnosis/pathWatch'
import { linkContract } from '#shared/links/link'
import { closeAll, databaseFor, engineOn, linkTo, metersFor, powerTag, type Closing } from '../support/engineOn'
import { listening } from '../support/protectedServers'
import { testSecurity } from '../support/security'
import { until } from '../support/until'

/** A connection that stands is not yet a link that works. */

const closing: Closing = []
afterEach(() => closeAll(closing))

it('a link over which nothing was asked never worked, however long its connection stands', async () => {
  const port = await listening(
    closing,
    createServer((_, reply) => reply.end('quay')),
  )
  const database = await databaseFor(closing)
  const { engine } = await engineOn(closing, database)
  const book = new PathBook(null)
  const paths = new PathWatch({ engine, security: await testSecurity(), book })
  closing.push(() => Promise.resolve(paths.close()))
  const made = (name: string, to: number) =>
    changeConfiguration(database.db, 'test', 'made', async (editor) => {
      const [link] = await editor.insert('link', [linkContract.parse({ ...linkTo(to), name })])
      return link!.id
    })
  const { result: id } = await made('Nothing asked', port)
  await until(() => engine.link(id)?.flow === 'flowing')
  // beside it one that works, and is followed at the same moments
  const meter = await metersFor(closing)
  const { result: other } = await made('Asked', meter.port)
  await changeConfiguration(database.db, 'test', 'made', (editor) => editor.insert('tag', [powerTag(other, 'berth/4/power')]))
  const lastGoodOf = async (link: number) => {
    for await (const part of paths.walkLink(link, engine.link(link)!, new AbortController().signal, 'asked'))
      if ('verdict' in part) return part.verdict.lastGood
    return 'no verdict' as const
  }
  await until(() => book.goodOf('link', other) !== null)
  expect(engine.link(id)!.flow).toBe('flowing')
  expect(await lastGoodOf(id)).toBeNull()
  expect(book.goodOf('link', id)).toBeNull()
}, 60_000)
