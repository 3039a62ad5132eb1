import { createServer } from 'node:net'
import { afterEach, describe, expect, it } from 'vitest'
import { changeConfiguration } from '#db/configuration'
import { linkContract } from '#shared/links/link'
import { tagDraft } from '#shared/tags'
import { closeAll, databaseFor, engineOn, linkTo, metersFor, powerTag, type Closing } from '../support/engineOn'
import { until } from '../support/until'

/** What waits because it failed is tried at once where somebody says so; until then it says when it tries again. */

const closing: Closing = []
afterEach(() => closeAll(closing))

/** Whoever connects is thrown out at once, and counted. */
const refuser = async () => {
  let count = 0
  const server = createServer((socket) => {
    count++
    socket.on('error', () => {}).destroy()
  })
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve))
  closing.push(() => new Promise<void>((resolve) => server.close(() => resolve())))
  return { port: (server.address() as { port: number }).port, attempts: () => count }
}

const patience = { connect: 2000, answer: 2000, retryFirst: 120_000, retryMost: 120_000 }
const kinds: [kind: string, settings: (port: number) => object][] = [
  ['modbus-tcp', (port) => ({ host: '127.0.0.1', port, unit: 11, patience, requests: { connections: 1 } })],
  ['iso-tcp', (port) => ({ host: '127.0.0.1', port, patience, requests: { connections: 1 } })],
  ['mqtt', (port) => ({ host: '127.0.0.1', port, patience })],
  ['opcua', (port) => ({ address: `127.0.0.1:${port}`, policy: 'None', mode: 'None', patience })],
  ['sql', (port) => ({ host: '127.0.0.1', port, database: 'plant', user: 'conduit', password: { plain: 'secret' }, patience })],
  [
    'http',
    (port) => ({ base: `http://127.0.0.1:${port}`, operations: [{ name: 'now', method: 'GET', path: '/now' }], interval: 1000, patience }),
  ],
]

const engineWith = async (links: object[], tags: object[] = []) => {
  const database = await databaseFor(closing)
  await changeConfiguration(database.db, 'test', 'made', async (editor) => {
    await editor.insert(
      'link',
      links.map((link) => linkContract.parse(link)),
    )
    await editor.insert(
      'tag',
      tags.map((tag) => tagDraft.parse(tag)),
    )
  })
  const { engine } = await engineOn(closing, database)
  return { engine, status: () => engine.status().links[0]! }
}

describe('a link that waits', () => {
  it.each(kinds)('says until when, and connects at once when told to: %s', async (kind, settings) => {
    const { port, attempts } = await refuser()
    const tags =
      kind === 'http'
        ? [{ path: 'price', type: 'float64', source: { kind: 'point', linkId: 1, address: 'now', options: { path: '$.p' } } }]
        : []
    const { engine, status } = await engineWith([{ name: 'Far', kind, settings: settings(port) }], tags)
    await until(() => (status().nextTryAt ?? 0) > Date.now() + 30_000)
    const before = attempts()
    expect(before).toBeGreaterThan(0)
    expect(engine.link(1)!.tryNow(null)).toBeNull()
    await until(() => attempts() > before)
    // it failed again, and waits again
    await until(() => (status().nextTryAt ?? 0) > Date.now() + 30_000)
  })

  it('waits for nothing when it is switched off, and says so', async () => {
    const { port } = await refuser()
    const { engine, status } = await engineWith([{ name: 'Far', kind: 'modbus-tcp', on: false, settings: kinds[0]![1](port) }])
    expect(engine.link(1)!.tryNow(null)).toMatchObject({ code: 'link.off' })
    expect(status().nextTryAt ?? null).toBeNull()
  })
})

describe('a unit that is left out', () => {
  it('is asked at once when told to, and is back in the round if it answers', async () => {
    const meters = await metersFor(closing)
    const database = await databaseFor(closing)
    await changeConfiguration(database.db, 'test', 'made', async (editor) => {
      const link = linkTo(meters.port)
      const settings = { ...link.settings, patience: { ...patience, answer: 100 }, leaveOut: { after: 2, for: 600_000 } }
      await editor.insert('link', [linkContract.parse({ ...link, settings })])
      await editor.insert('tag', [powerTag(1, 'power')])
    })
    const { engine } = await engineOn(closing, database)
    const unit = () => engine.status().links[0]!.units?.[0]
    await until(() => engine.status().goodTags === 1)
    const meter = meters.gateway.meters.find(({ unit: number }) => number === 11)!
    meter.fault.fault = 'silence'
    await until(() => (unit()?.leftOutUntil ?? 0) > Date.now() + 60_000)
    const { requests } = unit()!
    engine.link(1)!.tryNow('12')
    engine.link(1)!.tryNow('11')
    await until(() => unit()!.requests > requests)
    await until(() => (unit()?.leftOutUntil ?? 0) > Date.now() + 60_000)
    meter.fault.fault = null
    await until(() => {
      // on a busy machine its answer may come too late once
      if ((unit()!.leftOutUntil ?? 0) > 0) engine.link(1)!.tryNow('11')
      return engine.status().goodTags === 1 && unit()!.leftOutUntil === null
    })
  })
})
