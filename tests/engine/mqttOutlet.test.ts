import { cpSync } from 'node:fs'
import type { Socket } from 'node:net'
import { afterEach, describe, expect, it } from 'vitest'
import mqtt from 'mqtt'
import { quality } from '#core/tags/quality'
import { clientOf, openBroker, withEars } from '../support/brokerOutlet'
import { closeAll, stateFolderFor, type Closing } from '../support/engineOn'
import { until } from '../support/until'

/** Our broker, and clients that are not ours. */

const closing: Closing = []
afterEach(() => closeAll(closing))

const everything = [{ filter: '#', may: 'both' }]

describe('tags as topics', () => {
  it('are told on each change with time, quality and unit, and at once to whoever comes later', async () => {
    const outlet = await openBroker(closing)
    const power = outlet.tag('berth/1/power', 71.5, { unit: 'kW' })
    const { client, heard, textsOn } = await clientOf(closing, outlet.port)
    await client.subscribeAsync('berth/+/power')
    await until(() => heard.length === 1)
    expect(heard[0]).toMatchObject({ topic: 'berth/1/power', retain: true })
    outlet.set(power, 72.25, quality.Good, Date.parse('2026-11-25T14:06:45.120Z'))
    await until(() => heard.length === 2)
    expect(JSON.parse(heard[1]!.text)).toEqual({ value: 72.25, time: '2026-11-25T14:06:45.120Z', quality: 'Good', unit: 'kW' })
    outlet.table.degrade(power.handle, quality.BadNoCommunication, Date.now())
    outlet.table.flush()
    await until(() => heard.length === 3)
    expect(JSON.parse(textsOn('berth/1/power')[2]!)).toMatchObject({ value: 72.25, quality: 'BadNoCommunication' })
  })

  it('alone are told only while they are good, and what was kept is taken back when they are not', async () => {
    const outlet = await openBroker(closing, { publishes: [{ folder: '', form: 'plain', topic: 'port/{part2}/{name}' }] })
    const power = outlet.tag('berth/1/power', 71.5)
    const { client, textsOn } = await clientOf(closing, outlet.port)
    await client.subscribeAsync('#')
    await until(() => textsOn('port/1/power').length === 1)
    outlet.table.degrade(power.handle, quality.BadNoCommunication, Date.now())
    outlet.table.flush()
    await until(() => textsOn('port/1/power').length === 2)
    expect(textsOn('port/1/power')).toEqual(['71.5', ''])
    const later = await clientOf(closing, outlet.port)
    await later.client.subscribeAsync('#')
    outlet.set(power, 73)
    await until(() => later.heard.length === 1)
    expect(later.heard).toMatchObject([{ text: '73', retain: false }])
  })

  it('that have one topic go together, gathered over a period', async () => {
    const outlet = await openBroker(closing, { publishes: [{ folder: 'berth', topic: 'berths/{part2}', every: 50, retain: false }] })
    const [a, b] = [outlet.tag('berth/1/power', 1), outlet.tag('berth/1/current', 2)]
    outlet.tag('crane/power', 3)
    const { client, textsOn } = await clientOf(closing, outlet.port)
    await client.subscribeAsync('#')
    for (let n = 0; n < 20; n++) outlet.set(a, n)
    outlet.set(b, 5)
    const lastTold = () => JSON.parse(textsOn('berths/1').at(-1) ?? '{}') as Record<string, { value: number }>
    await until(() => lastTold()['berth/1/power']?.value === 19 && lastTold()['berth/1/current']?.value === 5)
    // what there was when we came may have gone by itself
    expect(textsOn('berths/1').length).toBeLessThan(4)
    expect(outlet.details().published).toBe(1)
  })

  it('that are gone, or published elsewhere, leave no message behind', async () => {
    const outlet = await openBroker(closing)
    const [power, light] = [outlet.tag('berth/1/power', 1), outlet.tag('berth/1/light', 2)]
    outlet.session.setTags([], [power.handle])
    outlet.update({ publishes: [{ folder: '', topic: 'port/{path}' }] })
    outlet.set(light, 3)
    const { client, heard } = await clientOf(closing, outlet.port)
    await client.subscribeAsync('#')
    await until(() => heard.length === 1)
    expect(heard.map(({ topic }) => topic)).toEqual(['port/berth/1/light'])
  })

  it('of which two would have the same topic are named, and the second has it once the first is gone', async () => {
    const outlet = await openBroker(closing, { publishes: [{ folder: '', topic: 'port/{name}' }] })
    const first = outlet.tag('berth/1/power', 1)
    outlet.tag('berth/2/power', 2)
    expect(outlet.details().notPublished).toEqual([
      { path: 'berth/2/power', problem: 'Its topic port/power is that of berth/1/power already.' },
    ])
    outlet.session.setTags([], [first.handle])
    expect(outlet.details()).toMatchObject({ published: 1, notPublished: [] })
  })
})

describe('setting tags by topic', () => {
  const settable = { publishes: [{ folder: '', set: '{path}/set' }], anonymous: everything }

  it('writes what a client sends, plain or as JSON, under its name', async () => {
    const outlet = await openBroker(closing, settable)
    const limit = outlet.tag('berth/1/limit', 60, { writable: true })
    const { client } = await clientOf(closing, outlet.port, { clientId: 'panel-7' })
    await client.publishAsync('berth/1/limit/set', '61.5', { qos: 1 })
    await client.publishAsync('berth/1/limit/set', '{"value": 62}', { qos: 1 })
    await until(() => outlet.written.length === 2)
    expect(outlet.written).toEqual([
      { handle: limit.handle, value: 61.5, who: 'panel-7, as anonymous' },
      { handle: limit.handle, value: 62, who: 'panel-7, as anonymous' },
    ])
  })

  it.each([
    ['berth/1/power/set', '1', 'berth/1/power was not set: it may only be read'],
    ['berth/1/limit/set', 'much', 'berth/1/limit was not set'],
    ['berth/1/power', '1', 'which is a tag’s own'],
    ['$SYS/x', '1', 'which is the broker’s own'],
  ])('refuses %s with %s, and tells', async (topic, payload, why) => {
    const outlet = await openBroker(closing, settable)
    outlet.tag('berth/1/power', 1)
    outlet.tag('berth/1/limit', 60, { writable: true })
    const [sender, listener] = [await clientOf(closing, outlet.port, { clientId: 'panel-7' }), await clientOf(closing, outlet.port)]
    await listener.client.subscribeAsync('#')
    await until(() => listener.heard.length === 2)
    await sender.client.publishAsync(topic, payload, { qos: 1 })
    await until(() => outlet.details().refused.length === 1)
    expect(outlet.details().refused[0]).toMatchObject({ client: 'panel-7', text: expect.stringContaining(why) as string, times: 1 })
    expect(outlet.written).toEqual([])
    expect(outlet.journal.entries.map(({ text }) => text)).toContainEqual(expect.stringContaining(why))
  })
})

describe('who may come in', () => {
  const users = [
    { name: 'lamps', password: { plain: 'a long night' }, rules: [{ filter: 'quay/lamp/#', may: 'send' }] },
    { name: 'office', password: { plain: 'coffee' }, rules: [{ filter: 'quay/+/count', may: 'listen' }] },
  ]
  const byName = { doors: [{ anonymous: false, names: true }], users }

  it('asks for name and password, and tells in the standard’s words who is not let in', async () => {
    const { port, details } = await openBroker(closing, byName)
    await expect(clientOf(closing, port)).rejects.toMatchObject({ code: 5 })
    await expect(clientOf(closing, port, { username: 'lamps', password: 'wrong' })).rejects.toMatchObject({ code: 4 })
    await expect(clientOf(closing, port, { username: 'nobody', password: 'a long night' })).rejects.toMatchObject({ code: 4 })
    await clientOf(closing, port, { username: 'lamps', password: 'a long night' })
    expect(details().refused.map(({ text }) => text)).toEqual(
      expect.arrayContaining([expect.stringContaining('without a name'), expect.stringContaining('“lamps” with a password')]),
    )
  })

  it('lets each send and listen only where it may', async () => {
    const { port, details } = await openBroker(closing, byName)
    const lamps = await clientOf(closing, port, { username: 'lamps', password: 'a long night', clientId: 'lamps' })
    const office = await clientOf(closing, port, { username: 'office', password: 'coffee', clientId: 'office' })
    await expect(office.client.subscribeAsync('quay/#')).rejects.toThrow()
    await office.client.subscribeAsync('quay/+/count')
    await lamps.client.publishAsync('quay/north/count', '7', { qos: 1 })
    await lamps.client.publishAsync('quay/lamp/3', '8', { qos: 1 })
    await until(() => details().refused.length === 2)
    expect(office.heard).toEqual([])
    expect(details().refused.map(({ client, text }) => `${client} ${text}`)).toEqual([
      'lamps sent to quay/north/count, and may not',
      'office wanted to listen to quay/#, and may not',
    ])
  })

  it('sends those out whose rights changed, and nobody else', async () => {
    const outlet = await openBroker(closing, byName)
    const lamps = await clientOf(closing, outlet.port, { username: 'lamps', password: 'a long night' })
    const office = await clientOf(closing, outlet.port, { username: 'office', password: 'coffee' })
    outlet.update({ ...byName, users: [users[0]!, { ...users[1]!, rules: [] }] })
    await until(() => !office.client.connected)
    expect(lamps.client.connected).toBe(true)
  })

  it('sends the last will of who was sent out by the rights of now', async () => {
    const may = (filter: string) => ({
      ...byName,
      users: [
        { ...users[0]!, rules: everything },
        { ...users[1]!, rules: [{ filter, may: 'send' }] },
      ],
    })
    const outlet = await openBroker(closing, may('office/#'))
    const lamps = await clientOf(closing, outlet.port, { username: 'lamps', password: 'a long night', clientId: 'lamps' })
    await lamps.client.subscribeAsync('#')
    const office = () =>
      clientOf(closing, outlet.port, {
        ...{ username: 'office', password: 'coffee', clientId: 'office' },
        will: { topic: 'office/state', payload: Buffer.from('gone'), qos: 1, retain: false },
      })
    await office()
    outlet.update(may('elsewhere/#'))
    await until(() =>
      outlet.details().refused.some(({ client, text }) => client === 'office' && text === 'sent to office/state, and may not'),
    )
    outlet.update(may('office/#'))
    const again = await office()
    again.client.stream.destroy()
    await until(() => lamps.textsOn('office/state').length > 0)
    expect(lamps.textsOn('office/state')).toEqual(['gone'])
  })

  it('ends the earlier of two clients with one client id, and names both', async () => {
    const { port, details } = await openBroker(closing)
    const first = await clientOf(closing, port, { clientId: 'twin' })
    await clientOf(closing, port, { clientId: 'twin' })
    await until(() => !first.client.connected)
    expect(details().refused).toMatchObject([
      { client: 'twin', text: expect.stringContaining('the earlier connection was ended') as string },
    ])
  })

  it('tells a client of another version which one it speaks', async () => {
    const { port, details } = await openBroker(closing)
    await expect(clientOf(closing, port, { protocolVersion: 5 })).rejects.toThrow()
    await until(() => details().refused.length === 1)
    expect(details().refused[0]!.text).toContain('MQTT 3.1.1')
  })
})

describe('doors', () => {
  it('are over TLS and websocket as well, each by itself', async () => {
    const outlet = await openBroker(closing, {
      doors: [{}, { port: await other(), tls: true }, { port: await other(), over: 'websocket' }],
    })
    const [, tls, ws] = outlet.session.status().addresses
    outlet.tag('berth/1/power', 7)
    for (const url of [tls!, ws!]) {
      const { client, heard } = await clientOf(closing, outlet.port, { url, rejectUnauthorized: false })
      await client.subscribeAsync('berth/#')
      await until(() => heard.length === 1)
    }
    expect(outlet.session.status().clients.map(({ security }) => security)).toEqual(['TLS', 'not encrypted'])
    for (const [index, steps] of [['open', 'name', 'port', 'answer'], ['secured'], ['answer']].entries()) {
      const found = []
      for await (const step of outlet.session.check(index)!) if (step.flow === 'flowing') found.push(step.step)
      expect(found).toEqual(expect.arrayContaining(steps))
    }
  })
  const other = async () => (await import('../../launcher/ports.mjs')).freePort()
})

describe('an ordinary broker', () => {
  it('hands on what clients send, with its quality of service', async () => {
    const { port } = await openBroker(closing, { anonymous: everything })
    const [a, b] = [await clientOf(closing, port), await clientOf(closing, port)]
    await b.client.subscribeAsync('quay/#', { qos: 2 })
    for (const qos of [0, 1, 2] as const) await a.client.publishAsync('quay/x', String(qos), { qos })
    await until(() => b.heard.length === 3)
    expect(b.heard.map(({ text, qos }) => [text, qos])).toEqual([
      ['0', 0],
      ['1', 1],
      ['2', 2],
    ])
  })

  it('keeps retained messages and sessions over a restart, with what came while a client was away', async () => {
    const folder = stateFolderFor(closing)
    const first = await openBroker(closing, { anonymous: everything }, { folder })
    const lasting = { clientId: 'crane', clean: false }
    const crane = await clientOf(closing, first.port, lasting)
    await crane.client.subscribeAsync('quay/orders', { qos: 1 })
    await crane.client.endAsync(true)
    const { client } = await clientOf(closing, first.port)
    await client.publishAsync('quay/state', 'calm', { qos: 1, retain: true })
    for (let n = 0; n < 20; n++) await client.publishAsync('quay/orders', String(n), { qos: 1 })
    expect(first.details().sessions).toMatchObject([{ client: 'crane', topics: 1, waiting: 20, connected: false }])
    await client.endAsync(true)
    await first.close()

    const second = await openBroker(closing, { anonymous: everything }, { folder, port: first.port })
    const returned = withEars(mqtt.connect(`mqtt://127.0.0.1:${second.port}`, { protocolVersion: 4, reconnectPeriod: 0, ...lasting }))
    closing.push(() => returned.client.endAsync(true))
    await until(() => returned.heard.length === 20)
    expect(returned.textsOn('quay/orders')).toEqual(Array.from({ length: 20 }, (_, n) => String(n)))
    await until(() => second.details().sessions[0]!.waiting === 0)
    const late = await clientOf(closing, second.port)
    await late.client.subscribeAsync('quay/state')
    await until(() => late.heard.length === 1)
    expect(late.heard[0]).toMatchObject({ text: 'calm', retain: true })
  })

  it('sends the last wills of those who were connected when it ended without notice, where they still may', async () => {
    const folder = stateFolderFor(closing)
    const first = await openBroker(closing, { anonymous: everything }, { folder })
    const connect = (clientId: string, topic: string) =>
      clientOf(closing, first.port, { clientId, will: { topic, payload: Buffer.from('gone'), qos: 1, retain: true } })
    const crane = await connect('crane', 'crane/state')
    await connect('lamp', 'lamp/state')
    const polite = await connect('office', 'office/state')
    await polite.client.endAsync()
    await until(() => first.session.status().clients.length === 2)
    // what is confirmed lies on the disk, and what happened before it
    await crane.client.publishAsync('yard/mark', 'here', { qos: 1, retain: true })
    // as the disk is found after kill -9
    const found = `${stateFolderFor(closing)}/found`
    cpSync(folder, found, { recursive: true })
    const rules = [
      { filter: 'crane/#', may: 'both' },
      { filter: 'office/#', may: 'both' },
      { filter: 'lamp/#', may: 'listen' },
    ]
    const second = await openBroker(closing, { anonymous: rules }, { folder: found })
    const { client, heard } = await clientOf(closing, second.port)
    await client.subscribeAsync(['crane/#', 'lamp/#', 'office/#'])
    await until(() => heard.length > 0)
    expect(heard).toMatchObject([{ topic: 'crane/state', text: 'gone', retain: true }])
    expect(second.details().refused).toMatchObject([{ client: 'lamp', text: 'sent to lamp/state, and may not' }])
    await second.close()
    const third = await openBroker(closing, { anonymous: everything }, { folder: found })
    const later = await clientOf(closing, third.port)
    await later.client.subscribeAsync(['crane/#', 'lamp/#', 'office/#'])
    await until(() => later.heard.length > 0)
    expect(later.heard.map(({ topic }) => topic)).toEqual(['crane/state'])
  })

  it('drops the oldest of what waits beyond its limit, counts and tells', async () => {
    const { port, details, journal } = await openBroker(closing, { anonymous: everything, limits: { kept: 5 } })
    const crane = await clientOf(closing, port, { clientId: 'crane', clean: false })
    await crane.client.subscribeAsync('quay/orders', { qos: 1 })
    await crane.client.endAsync(true)
    const { client } = await clientOf(closing, port)
    for (let n = 0; n < 8; n++) await client.publishAsync('quay/orders', String(n), { qos: 1 })
    await until(() => details().sessions[0]?.dropped === 3)
    expect(journal.entries.map(({ text }) => text)).toContainEqual(expect.stringContaining('wait for crane'))
    const back = withEars(
      mqtt.connect(`mqtt://127.0.0.1:${port}`, { protocolVersion: 4, clientId: 'crane', clean: false, reconnectPeriod: 0 }),
    )
    closing.push(() => back.client.endAsync(true))
    await until(() => back.heard.length === 5)
    expect(back.textsOn('quay/orders')).toEqual(['3', '4', '5', '6', '7'])
  })

  it('keeps no more topics for who comes later than it may, and tells', async () => {
    const { port, details } = await openBroker(closing, { anonymous: everything, limits: { retained: 1 } })
    const { client } = await clientOf(closing, port, { clientId: 'lamp' })
    for (const topic of ['quay/a', 'quay/b']) await client.publishAsync(topic, 'x', { qos: 1, retain: true })
    await until(() => details().refused.length === 1)
    expect(details()).toMatchObject({ retained: 1, refused: [{ client: 'lamp', text: expect.stringContaining('quay/b kept') as string }] })
  })

  it('ends a client whose message is larger than may be, before it is read, and serves the others', async () => {
    const { port, details } = await openBroker(closing, { anonymous: everything, limits: { payload: 64 } })
    const [large, fine] = [await clientOf(closing, port, { clientId: 'large' }), await clientOf(closing, port)]
    large.client.publish('quay/x', Buffer.alloc(50 * 1024 * 1024), { qos: 0 })
    await until(() => details().refused.length === 1)
    expect(details().refused[0]).toMatchObject({
      client: 'large',
      text: expect.stringContaining('bytes, more than one may have') as string,
    })
    await fine.client.subscribeAsync('quay/y')
    await fine.client.publishAsync('quay/y', 'ok', { qos: 1 })
    await until(() => fine.heard.length === 1)
  })

  it('lets no client that takes nothing hold up the others', async () => {
    const { port, details } = await openBroker(closing, { anonymous: everything, limits: { payload: 1024 } })
    const [sender, stuck, fine] = [
      await clientOf(closing, port),
      await clientOf(closing, port, { clientId: 'stuck' }),
      await clientOf(closing, port),
    ]
    await stuck.client.subscribeAsync('quay/film')
    await fine.client.subscribeAsync('quay/film')
    ;(stuck.client.stream as unknown as Socket).pause()
    const piece = Buffer.alloc(256 * 1024, 'x')
    for (let n = 1; n <= 100; n++) {
      sender.client.publish('quay/film', piece, { qos: 0 })
      await until(() => fine.heard.length === n)
    }
    expect(details().dropped).toBeGreaterThan(0)
    expect(details().refused).toMatchObject([{ client: 'stuck', text: expect.stringContaining('more slowly') as string }])
  }, 30_000)
})

describe('messages of clients', () => {
  it('reach whoever claims them, once each, before the client is told that we have them', async () => {
    const outlet = await openBroker(closing, { anonymous: everything })
    const [got, order]: [string[], string[]] = [[], []]
    outlet.book.claim({
      by: 'a bridge',
      topic: 'quay/count',
      take: ({ payload, waits }) => {
        got.push(Buffer.from(payload).toString())
        waits?.push(new Promise<void>((resolve) => setTimeout(() => (order.push('kept'), resolve()), 30)))
      },
    })
    const { client } = await clientOf(closing, outlet.port)
    for (const qos of [1, 2] as const) {
      await client.publishAsync('quay/count', String(qos), { qos })
      order.push('told')
    }
    expect(got).toEqual(['1', '2'])
    expect(order).toEqual(['kept', 'told', 'kept', 'told'])
    await client.publishAsync('quay/other', 'x', { qos: 0 })
    await until(() => outlet.book.list().count === 1)
    expect(outlet.book.list().topics[0]).toMatchObject({ topic: 'quay/other', last: 'x' })
  })
})
