import { afterEach, describe, expect, it } from 'vitest'
import { changeConfiguration } from '#db/configuration'
import type { Engine } from '#engine/engine'
import { PathBook } from '#engine/diagnosis/pathBook'
import { PathWatch } from '#engine/diagnosis/pathWatch'
import { makeSelfSigned } from '#security/selfSigned'
import type { Verdict } from '#shared/diagnosis'
import { linkContract } from '#shared/links/link'
import { pointTag } from '#shared/tags'
import { startArm } from '../support/arm'
import { closeAll, databaseFor, engineOn, type Closing } from '../support/engineOn'
import { testSecurity } from '../support/security'
import { until } from '../support/until'
import { startWebApi } from '../support/webApi'

/** What is otherwise than when it last worked: what the far side shows and says of itself. */

const closing: Closing = []
afterEach(() => closeAll(closing))

const names = { organization: 'Harrow Sound', applicationUri: 'urn:tariffs', dns: ['localhost'], ip: ['127.0.0.1'] }

const walked = async (paths: PathWatch, engine: Engine, id: number) => {
  for await (const part of paths.walkLink(id, engine.link(id)!, new AbortController().signal, 'asked'))
    if ('verdict' in part) return part.verdict
  return null
}

/** Others that run beside make interfaces of their own. */
const changesOf = (verdict: Verdict | null) => verdict!.changes.filter(({ what }) => what !== 'interfaces')

describe('before and after', () => {
  it('tells another certificate, other words of the far side, and a clock that was set', async () => {
    const [before, after] = [
      await makeSelfSigned({ ...names, commonName: 'Tariffs' }),
      await makeSelfSigned({ ...names, commonName: 'Tariffs' }),
    ]
    let [server, clock, status] = ['tariffs 4.1', 0, 200]
    const api = await startWebApi(
      (_, reply) => {
        reply.setHeader('server', server).setHeader('date', new Date(Date.now() + clock).toUTCString())
        reply.writeHead(status, { 'content-type': 'application/json' }).end('{"price":11.25}')
      },
      { cert: before.certificate, key: before.key },
    )
    closing.push(() => api.stop())
    const database = await databaseFor(closing)
    const { engine, qualityOf } = await engineOn(closing, database)
    const book = new PathBook(null)
    const paths = new PathWatch({ engine, security: await testSecurity(), book })
    closing.push(() => Promise.resolve(paths.close()))
    const { result } = await changeConfiguration(database.db, 'test', 'made', async (editor) => {
      const settings = {
        ...{ base: api.base, interval: 200, trust: { verify: true, authority: before.certificate } },
        ...{ operations: [{ name: 'price', path: '/price', example: '{"price":11.25}' }], patience: { connect: 1000, answer: 1000 } },
      }
      const [link] = await editor.insert('link', [linkContract.parse({ name: 'Tariffs', kind: 'http', settings })])
      const [tag] = await editor.insert('tag', [
        pointTag({ path: 'tariff/price', linkId: link!.id, address: 'price', type: 'float64', options: { path: '$.price' } }),
      ])
      return { link: link!.id, tag: tag!.id }
    })
    await until(() => qualityOf(result.tag) === 0)
    await until(() => book.goodOf('link', result.link) !== null, Boolean, 20)
    expect(await walked(paths, engine, result.link)).toBeNull()
    expect(book.goodOf('link', result.link)).toMatchObject({ peer: 'tariffs 4.1', certificate: expect.stringMatching(/^[0-9a-f]{40}$/) })

    ;[server, clock, status] = ['tariffs 5.0', 7_200_000, 404]
    const refused = await walked(paths, engine, result.link)
    expect(changesOf(refused)).toEqual([
      { what: 'peer', before: 'tariffs 4.1', now: 'tariffs 5.0' },
      { what: 'clockAhead', before: 'right', now: expect.stringMatching(/^2(\.0)? h ahead$/) },
    ])

    api.show(after)
    const verdict = await walked(paths, engine, result.link)
    expect(verdict!.causes[0]!.id).toBe('tls-authority')
    expect(changesOf(verdict).map(({ what }) => what)).toEqual(['certificate'])
  })

  it('has an OPC UA server asked what it says of itself while it works, without that anybody checks', async () => {
    const arm = await startArm()
    closing.push(() => arm.stop())
    const database = await databaseFor(closing)
    const { engine } = await engineOn(closing, database)
    const book = new PathBook(null)
    const paths = new PathWatch({ engine, security: await testSecurity(), book })
    closing.push(() => Promise.resolve(paths.close()))
    const settings = { address: `opc.tcp://127.0.0.1:${arm.port}/arm` }
    const { result } = await changeConfiguration(database.db, 'test', 'made', (editor) =>
      editor.insert('link', [linkContract.parse({ name: 'Cable arm', kind: 'opcua', settings })]),
    )
    const id = result[0]!.id
    const known = await until(
      () => book.goodOf('link', id),
      (good) => good?.peer != null,
      30,
    )
    expect(known!.peer).toBe('Cable arm controller 2.4 build 7')
    expect(Math.abs(known!.clockAhead!)).toBeLessThan(10_000)
    expect(book.of('link', id)).toEqual([])
  })
})
