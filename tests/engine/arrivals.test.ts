import { afterEach, describe, expect, it, vi } from 'vitest'
import type * as protocolsModule from '#core/links/registry'
import { changeConfiguration } from '#db/configuration'
import type * as contractsModule from '#shared/links/registry'
import { linkContract, type LinkDraft } from '#shared/links/link'
import { pointTag } from '#shared/tags'
import { closeAll, databaseFor, engineOn, type Closing } from '../support/engineOn'
import { lineSender } from '../support/lines'
import { until } from '../support/until'

vi.mock('#core/links/registry', async (original) => {
  const { linesProtocol } = await import('../support/lines')
  const { protocols } = await original<typeof protocolsModule>()
  const all = { ...protocols, lines: linesProtocol }
  return { protocols: all, linkKinds: Object.keys(all), protocolOf: (kind: keyof typeof all) => all[kind] }
})
vi.mock('#shared/links/registry', async (original) => {
  const { linesContracts } = await import('../support/lines')
  return { linkContracts: { ...(await original<typeof contractsModule>()).linkContracts, lines: linesContracts } }
})
vi.mock('#engine/links/registry', async (original) => {
  const { linesDriver } = await import('../support/lines')
  const { driverOf } = await original<{ driverOf(kind: string): unknown }>()
  return { driverOf: (kind: string) => (kind === 'lines' ? linesDriver : driverOf(kind)) }
})

const closing: Closing = []
afterEach(() => closeAll(closing))

const linesLink = (name: string, port: number): LinkDraft => linkContract.parse({ name, kind: 'lines', settings: { port } })

const twoSources = async () => {
  const senders = [await lineSender(), await lineSender()] as const
  for (const sender of senders) closing.push(() => sender.close())
  const base = await databaseFor(closing)
  const started = await engineOn(closing, base)
  const { result } = await changeConfiguration(base.db, 'test', 'made', async (editor) => {
    const links = await editor.insert(
      'link',
      senders.map(({ port }, i) => linesLink(`Lines ${i + 1}`, port)),
    )
    const tags = await editor.insert('tag', [pointTag({ path: 'power', linkId: links[0]!.id, address: 'berth/1/power', type: 'float64' })])
    return { links, tag: tags[0]! }
  })
  await until(() => senders.every((sender) => sender.connections() === 1))
  return { ...base, ...started, ...result, senders }
}

describe('a source of messages', () => {
  it('brings a tag its value, hands each message on once, and shows those that nobody claims by link', async () => {
    const { engine, senders, links, tag, valueOf } = await twoSources()
    const taken: string[] = []
    const book = engine.link(links[0]!.id)!.arrivals
    book.claim({ by: 'test', topic: (topic) => topic.startsWith('berth/'), take: ({ payload }) => void taken.push(String(payload)) })
    senders[0].send('berth/1/power 1480', 'berth/1/power 1480', 'berth/1/power 1481', 'wind 7.5')
    senders[1].send('berth/1/power 9')
    await until(() => valueOf(tag.id) === 1481 && engine.link(links[1]!.id)!.arrivals.arrived === 1)
    expect(taken).toEqual(['1480', '1480', '1481'])
    expect(book.list().topics).toMatchObject([{ topic: 'wind', form: 'number', last: '7.5' }])
    expect(engine.link(links[1]!.id)!.arrivals.list().topics).toMatchObject([{ topic: 'berth/1/power', last: '9' }])
  })

  it('of a tag that goes is claimed by nobody, and after the link was switched off and on the tag has its messages again', async () => {
    const { db, engine, senders, links, tag, valueOf } = await twoSources()
    const book = engine.link(links[0]!.id)!.arrivals
    for (const on of [false, true]) {
      const { revision } = await changeConfiguration(db, 'test', 'switched', async (editor) =>
        editor.update('link', (await editor.row('link', links[0]!.id))!, { on }),
      )
      await until(() => engine.effectOf(revision).state === 'in force')
    }
    await until(() => senders[0].connections() === 2)
    senders[0].send('berth/1/power 5')
    await until(() => valueOf(tag.id) === 5)
    expect(book.list().count).toBe(0)
    await changeConfiguration(db, 'test', 'gone', async (editor) => editor.remove('tag', [(await editor.row('tag', tag.id))!]))
    await until(() => engine.status().tags === 0)
    senders[0].send('berth/1/power 6')
    await until(() => book.list().topics[0]?.last === '6')
  })
})
