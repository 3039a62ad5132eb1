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

/** A connection that stands is not yet a link that works: one to a web server, where a meter was expected. */

const closing: Closing = []
afterEach(() => closeAll(closing))

const meterAtAWebServer = async () => {
  const port = await listening(
    closing,
    createServer((_, reply) => reply.end('quay')),
  )
  const database = await databaseFor(closing)
  const { db } = database
  const { engine } = await engineOn(closing, database)
  const book = new PathBook(null)
  const paths = new PathWatch({ engine, security: await testSecurity(), book })
  closing.push(() => Promise.resolve(paths.close()))
  const made = (name: string, to: number) =>
    changeConfiguration(db, 'test', 'made', async (editor) => {
      const [link] = await editor.insert('link', [linkContract.parse({ ...linkTo(to), name })])
      return link!.id
    })
  const ask = (link: number, path: string) =>
    changeConfiguration(db, 'test', 'made', (editor) => editor.insert('tag', [powerTag(link, path)]))
  const { result: id } = await made('Nothing asked', port)
  await until(() => engine.link(id)?.flow === 'flowing')
  // beside it one that works, and is followed at the same moments
  const meter = await metersFor(closing)
  const { result: other } = await made('Asked', meter.port)
  await ask(other, 'berth/4/power')
  await until(() => book.goodOf('link', other) !== null)
  expect(engine.link(id)!.flow).toBe('flowing')
  const verdictOf = async (link: number) => {
    for await (const part of paths.walkLink(link, engine.link(link)!, new AbortController().signal, 'asked'))
      if ('verdict' in part) return part.verdict
    throw new Error('no verdict')
  }
  return { id, book, ask, verdictOf }
}

it('a link over which nothing was asked never worked, however long its connection stands', async () => {
  const { id, book, verdictOf } = await meterAtAWebServer()
  expect((await verdictOf(id)).lastGood).toBeNull()
  expect(book.goodOf('link', id)).toBeNull()
}, 60_000)

it('what a web server says where a device was expected is not shown as the answer that worked', async () => {
  const { id, ask, verdictOf } = await meterAtAWebServer()
  await ask(id, 'berth/5/power')
  const { exchange } = await until(
    () => verdictOf(id),
    (seen) => !!seen.exchange?.failed.some(({ out }) => !out),
  )
  expect(exchange!.good).toEqual([])
}, 90_000)
