import { createServer, type Server, type Socket } from 'node:net'
import { afterEach, describe, expect, it } from 'vitest'
import mqtt from 'mqtt'
import { mqttSettings, type MqttSettings } from '#core/mqtt/settings'
import { quality } from '#core/tags/quality'
import { MqttLinkSession } from '#engine/links/mqtt/session'
import { TagTable } from '#engine/table/tagTable'
import { ArrivalBook } from '#engine/arrivals/arrivalBook'
import { ArrivalDoor } from '#engine/arrivals/arrivalDoor'
import { Wire } from '#engine/wire/wire'
import { closeAll, type Closing } from '../support/engineOn'
import { memoryJournal } from '../support/modbusSession'
import { startBroker } from '../support/mqttBroker'
import { checkMqtt } from '#engine/links/mqtt/check'
import { Meters } from '#core/statistics/meters'
import { startBroker5 } from '../support/mqtt5Broker'
import { pointsIn, type Wanted } from '../support/points'
import { testSecurity } from '../support/security'
import { until } from '../support/until'

/** Our link and a broker that is not ours. */

const closing: Closing = []
afterEach(() => closeAll(closing))

const brokerWith = async (...args: Parameters<typeof startBroker>) => {
  const started = await startBroker(...args)
  closing.push(() => started.stop())
  return started
}

const open = async (port: number, wanted: Wanted[], more: Record<string, unknown> = {}) => {
  const settings: MqttSettings = mqttSettings.parse({
    host: '127.0.0.1',
    port,
    version: '3.1.1',
    patience: { retryFirst: 100, retryMost: 200, answer: 1000 },
    ...more,
  })
  const [table, journal] = [new TagTable(), memoryJournal()]
  const book = new ArrivalBook(() => {})
  const session = new MqttLinkSession({
    ...{ name: 'Lamp posts', settings, table, journal, wire: new Wire(), security: await testSecurity() },
    meters: new Meters(),
    roots: () => [],
    arrivals: new ArrivalDoor(book),
  })
  closing.unshift(() => session.close())
  const points = pointsIn(table, wanted)
  session.setPoints(points, [])
  const at = (index: number) => points[index]!.handle
  return {
    ...{ session, table, journal, points, settings, book },
    value: (index: number) => table.values[at(index)],
    quality: (index: number) => table.quality[at(index)]!,
    sourceTime: (index: number) => table.sourceTime[at(index)]!,
    seenAt: (index: number) => table.seenAt[at(index)]!,
    write: (index: number, value: number | string | boolean) => session.write(at(index), value),
    listens: () => until(() => session.status().connections === 1),
  }
}
const lamp = (path: string, type: Wanted['type'] = 'float64', options = {}) => ({
  address: 'quay/lamp/3',
  type,
  more: { options: { path, ...options } },
})

describe('a topic of a broker', () => {
  it('is a tag, or many by paths into its payload, each message looked into once', async () => {
    const there = await brokerWith()
    const link = await open(there.port, [
      lamp('$.lux'),
      lamp('$.on', 'bool'),
      lamp('$.lux', 'float64', { time: '$.at' }),
      { address: 'quay/gate', type: 'string' },
      lamp('$.volts'),
    ])
    await link.listens()
    const say = async () => {
      await there.publish('quay/lamp/3', '{"lux":12.5,"on":true,"at":"2026-11-26T12:00:00Z"}')
      await there.publish('quay/gate', 'shut')
    }
    await until(async () => {
      await say()
      return link.quality(0) === quality.Good && link.quality(3) === quality.Good
    })
    expect([0, 1, 2, 3].map((index) => link.value(index))).toEqual([12.5, true, 12.5, 'shut'])
    expect(link.sourceTime(2)).toBe(Date.UTC(2026, 10, 26, 12))
    expect(link.quality(4)).toBe(quality.BadTypeMismatch)
    expect(link.session.findings()).toEqual([
      {
        handle: link.points[4]!.handle,
        kind: 'type',
        text: 'What came on quay/lamp/3 is no value of this tag: it has nothing at $.volts.',
      },
    ])
    expect(link.session.origin(link.points[0]!.handle)?.stages.map(({ title }) => title)).toEqual([
      'Message',
      'Read as float64',
      'Passed on',
    ])
    expect(link.session.status()).toMatchObject({ flow: 'flowing', sentence: 'Connected, listening to 2 topics' })

    // an equal message is a message: it makes the value younger
    const seen = link.seenAt(3)
    await until(async () => {
      await say()
      return link.seenAt(3) > seen
    })
  })

  it('is written with what a consumer wrote, and comes back as what the broker then has', async () => {
    const there = await brokerWith()
    const link = await open(there.port, [
      { address: 'quay/lamp/3/dim', type: 'uint8', more: { scaling: { gain: 0.5, offset: 0 } } },
      { address: 'quay/lamp/3/state', type: 'bool', more: { options: { setTopic: 'quay/lamp/3/set' } } },
    ])
    await link.listens()
    const client = await mqtt.connectAsync(`mqtt://127.0.0.1:${there.port}`)
    closing.unshift(() => client.endAsync(true))
    const heard: string[] = []
    client.on('message', (topic, payload) => heard.push(`${topic} ${payload.toString()}`))
    await client.subscribeAsync('quay/#')
    expect(await link.write(0, 42)).toEqual({ ok: true })
    expect(await link.write(1, true)).toEqual({ ok: true })
    await until(() => heard.length === 2)
    expect(heard).toEqual(['quay/lamp/3/dim 84', 'quay/lamp/3/set true'])
    await until(() => link.value(0) === 42)
    expect(link.value(1)).toBeUndefined()
    expect(await link.write(0, 500)).toMatchObject({ ok: false, quality: quality.BadOutOfRange, fault: { code: 'write.value' } })
  })
})

describe('a message that the broker kept', () => {
  it('is no good value, unless it says when it was made, or the link takes it as good', async () => {
    const there = await brokerWith()
    await there.publish('quay/lamp/3', '{"lux":7,"at":1795694400}', { retain: true })
    const wanted = [lamp('$.lux'), lamp('$.lux', 'float64', { time: '$.at' })]
    const link = await open(there.port, wanted)
    await until(() => link.value(0) === 7)
    expect([link.quality(0), link.quality(1)]).toEqual([quality.UncertainLastUsableValue, quality.Good])
    const trusting = await open(there.port, wanted, { reading: { retained: 'good' } })
    await until(() => trusting.value(0) === 7)
    expect(trusting.quality(0)).toBe(quality.Good)
  })
})

describe('a value', () => {
  it('is uncertain after its age without a message, and good again with the next', async () => {
    const there = await brokerWith()
    const link = await open(there.port, [{ address: 'quay/count', type: 'int32', more: { options: { age: 200 } } }])
    await link.listens()
    const counts = () =>
      until(async () => {
        await there.publish('quay/count', '5')
        return link.quality(0) === quality.Good
      })
    await counts()
    await until(() => link.quality(0) === quality.UncertainLastUsableValue)
    expect(link.value(0)).toBe(5)
    await counts()
  })

  it('that grew old, or is from before a break, is not made good by an edit of its tag', async () => {
    const there = await brokerWith()
    const link = await open(there.port, [
      { address: 'quay/count', type: 'int32', more: { options: { age: 200 } } },
      { address: 'quay/gate', type: 'int32' },
    ])
    await link.listens()
    await until(async () => {
      await there.publish('quay/count', '5')
      await there.publish('quay/gate', '5')
      return link.quality(0) === quality.Good && link.quality(1) === quality.Good
    })
    const edit = (index: number) => link.session.setPoints([{ ...link.points[index]!, access: 'read' }], [])
    await until(() => link.quality(0) === quality.UncertainLastUsableValue)
    edit(0)
    expect(link.quality(0)).toBe(quality.UncertainLastUsableValue)
    edit(1)
    expect(link.quality(1)).toBe(quality.Good)

    there.drop()
    await until(() => link.quality(1) === quality.UncertainLastUsableValue)
    edit(1)
    expect(link.quality(1)).toBe(quality.UncertainLastUsableValue)
  })

  it('of before a break is no good one after it', async () => {
    const there = await brokerWith()
    const link = await open(there.port, [{ address: 'quay/count', type: 'int32' }])
    await link.listens()
    await until(async () => {
      await there.publish('quay/count', '5')
      return link.quality(0) === quality.Good
    })
    there.drop()
    await until(() => link.quality(0) === quality.BadNotConnected)
    await until(() => link.quality(0) === quality.UncertainLastUsableValue)
    expect(link.value(0)).toBe(5)
    await until(async () => {
      await there.publish('quay/count', '6')
      return link.quality(0) === quality.Good
    })
    expect(link.value(0)).toBe(6)
    expect(link.journal.entries.map(({ text }) => text)).toEqual([expect.stringContaining('closed the connection'), 'Connected.'])
  })
})

describe('a broker that speaks MQTT 3.1.1 only', () => {
  it('is spoken to like that, though 5.0 was chosen; link and check say so', async () => {
    const there = await brokerWith()
    const link = await open(there.port, [{ address: 'quay/gate', type: 'string' }], { version: '5' })
    await link.listens()
    expect(link.session.status()).toMatchObject({ flow: 'flowing', sentence: 'Connected, listening to 1 topic, by MQTT 3.1.1' })
    expect(link.journal.entries.map(({ text }) => text)).toEqual(['The broker does not speak MQTT 5.0; MQTT 3.1.1 is spoken with it.'])
    await until(async () => {
      await there.publish('quay/gate', 'shut')
      return link.value(0) === 'shut'
    })
    const steps = []
    const around = { wire: new Wire(), security: await testSecurity() }
    for await (const step of checkMqtt(link.settings, new AbortController().signal, around)) steps.push(step)
    expect(steps.find(({ step, flow }) => step === 'connack' && flow === 'flowing')!.evidence).toContain(
      'MQTT 3.1.1, as the broker does not speak 5.0',
    )
    expect(steps.at(-1)!.flow).toBe('flowing')
  })
})

describe('a payload of bytes', () => {
  it('is read where its tags lie in it, and values are written as bytes or as JSON with time and quality', async () => {
    const there = await brokerWith()
    const heard: Buffer[] = []
    there.broker.subscribe(
      'set/#',
      (packet, done) => (heard.push(packet.payload as Buffer), done()),
      () => {},
    )
    const bytes = (at: number, more = {}) => ({ bytes: { at, order: 'big', ...more } })
    const link = await open(there.port, [
      { address: 'quay/raw', type: 'uint16', more: { options: { ...bytes(0), setTopic: 'set/raw' } } },
      { address: 'quay/raw', type: 'float32', more: { options: bytes(2) } },
      { address: 'quay/raw', type: 'bool', more: { options: bytes(6, { bit: 7 }) } },
      { address: 'quay/lamp', type: 'float64', more: { options: { send: 'json', setTopic: 'set/lamp' } } },
    ])
    await link.listens()
    await until(async () => {
      await there.publish('quay/raw', Buffer.from([0x12, 0x34, 0x41, 0x20, 0, 0, 0x80]))
      return link.value(2) === true
    })
    expect([link.value(0), link.value(1)]).toEqual([0x1234, 10])
    await there.publish('quay/raw', Buffer.from([0x12]))
    await until(() => link.quality(0) === quality.BadTypeMismatch)
    expect((await link.write(0, 513)).ok).toBe(true)
    expect((await link.write(3, 4.5)).ok).toBe(true)
    await until(() => heard.length === 2)
    expect([...heard[0]!]).toEqual([2, 1])
    expect(JSON.parse(heard[1]!.toString())).toMatchObject({ value: 4.5, quality: 0, time: expect.stringMatching(/^20/) as string })
  })
})

describe('a broker that refuses', () => {
  it('whoever we say that we are is told by its code, in words', async () => {
    const there = await brokerWith({
      authenticate: (_client, user, _password, done) =>
        done(user === 'lamp' ? null : Object.assign(new Error('no'), { returnCode: 5 }), user === 'lamp'),
    })
    const link = await open(there.port, [])
    await until(() => link.session.status().flow === 'broken')
    expect(link.session.status().fault).toMatchObject({
      code: 'mqtt.refused',
      what: expect.stringContaining('0x05, Not authorized: whoever signs in like this may not connect') as string,
    })
    link.session.update({ ...link.settings, identity: { kind: 'password', user: 'lamp', password: { plain: 'post' } } })
    await link.listens()
  })

  it('a topic is told at its tags, and the others go on', async () => {
    const there = await brokerWith({
      authorizeSubscribe: (_client, subscription, done) => done(null, subscription.topic === 'secret' ? null : subscription),
    })
    const link = await open(
      there.port,
      [
        { address: 'secret', type: 'string' },
        { address: 'open', type: 'string' },
      ],
      { version: '3.1.1' },
    )
    await until(() => link.quality(0) === quality.BadUserAccessDenied)
    await until(async () => {
      await there.publish('open', 'yes')
      return link.value(1) === 'yes'
    })
    expect(link.session.status()).toMatchObject({
      flow: 'flowing',
      sentence: 'Connected, listening to 2 topics · 1 tag not given by the broker',
      refused: [{ address: 'secret', why: expect.stringContaining('0x80') as string }],
    })
  })
})

describe('what is no broker', () => {
  const listening = async (greet: (socket: Socket) => void) => {
    const server: Server = createServer((socket) => greet(socket.on('error', () => {}).resume()))
    await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve))
    closing.push(() => new Promise<void>((resolve) => server.close(() => resolve())))
    return (server.address() as { port: number }).port
  }
  const faultOf = async (port: number) => {
    const link = await open(port, [], { patience: { retryFirst: 100, retryMost: 200, answer: 200 } })
    await until(() => link.session.status().fault !== null)
    return link.session.status().fault!.code
  }

  it('is told apart: nobody there, silence, another service', async () => {
    const taken = await listening(() => {})
    expect(await faultOf(taken)).toBe('mqtt.silent')
    expect(await faultOf(await listening((socket) => void socket.write('SSH-2.0-gate\r\n')))).toBe('mqtt.not-mqtt')
    expect(await faultOf(await listening((socket) => void socket.destroy()))).toBe('mqtt.closed')
    expect(await faultOf(1)).toBe('tcp.refused')
  })
})

describe('points', () => {
  it('come and go while it listens; what nobody wants any more is left', async () => {
    const there = await brokerWith()
    const link = await open(there.port, [{ address: 'a', type: 'string' }])
    await link.listens()
    const [more] = pointsIn(link.table, [{ address: 'b', type: 'string' }])
    link.session.setPoints([more!], [])
    await until(async () => {
      await there.publish('b', 'here')
      return link.table.values[more!.handle] === 'here'
    })
    link.session.setPoints([], [more!.handle])
    await until(() => link.session.status().sentence === 'Connected, listening to 1 topic')
    const heard = link.book.arrived
    await until(async () => {
      await there.publish('b', 'lost')
      await there.publish('a', 'kept')
      return link.value(0) === 'kept'
    })
    expect(link.book.list().topics.map(({ topic }) => topic)).not.toContain('a')
    expect(link.book.arrived).toBeGreaterThan(heard)
  })
})

describe('a broker of MQTT 5.0', () => {
  const five = async (habits: Parameters<typeof startBroker5>[0], wanted: Wanted[], more = {}) => {
    const there = await startBroker5(habits)
    closing.push(() => there.stop())
    return { there, link: await open(there.port, wanted, { version: '5', ...more }) }
  }

  it('gives its messages, and takes ours', async () => {
    const { there, link } = await five({}, [{ address: 'quay/gate', type: 'int16' }])
    await until(() => there.filters().includes('quay/gate'))
    there.publish('quay/gate', '12')
    await until(() => link.value(0) === 12)
    expect(await link.write(0, 13)).toEqual({ ok: true })
    await until(() => link.value(0) === 13)
  })

  it('tells by its reason codes why it lets us not in, not listen, not send', async () => {
    const { link } = await five({ connack: () => 0x97 }, [])
    await until(() => link.session.status().fault !== null)
    expect(link.session.status().fault!.what).toContain('0x97, Quota exceeded: a limit that it was given is reached')

    const wanted: Wanted[] = [
      { address: 'secret', type: 'string' },
      { address: 'open', type: 'string' },
    ]
    const habits = { suback: (filter: string) => (filter === 'secret' ? 0x87 : 1), puback: () => 0x87 }
    const { link: other } = await five(habits, wanted)
    await until(() => other.quality(0) === quality.BadUserAccessDenied)
    expect(other.session.findings()).toMatchObject([{ kind: 'refused', text: expect.stringContaining('0x87, Not authorized') as string }])
    expect(await other.write(1, 'x')).toMatchObject({ ok: false, quality: quality.BadUserAccessDenied, fault: { code: 'mqtt.not-sent' } })
  })

  it('names another client that comes with our client id', async () => {
    const { there, link } = await five({}, [], { clientId: 'post-3' })
    await link.listens()
    const other = await mqtt.connectAsync(`mqtt://127.0.0.1:${there.port}`, { clientId: 'post-3', protocolVersion: 5, reconnectPeriod: 0 })
    closing.unshift(() => other.endAsync(true))
    await until(() => link.journal.entries.some(({ fault }) => fault?.code === 'mqtt.taken-over'))
    expect(link.journal.entries[0]!.text).toContain('with our client id “post-3”')
  })
})
