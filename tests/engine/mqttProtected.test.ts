import { createServer } from 'node:net'
import type { TLSSocket } from 'node:tls'
import { afterEach, describe, expect, it } from 'vitest'
import { mqttSettings } from '#core/mqtt/settings'
import { quality } from '#core/tags/quality'
import { ArrivalBook } from '#engine/arrivals/arrivalBook'
import { ArrivalDoor } from '#engine/arrivals/arrivalDoor'
import { checkMqtt } from '#engine/links/mqtt/check'
import { MqttLinkSession } from '#engine/links/mqtt/session'
import { TagTable } from '#engine/table/tagTable'
import { Wire } from '#engine/wire/wire'
import { Meters } from '#core/statistics/meters'
import { makeSelfSigned } from '#security/selfSigned'
import type { CheckStep } from '#shared/status'
import { closeAll, type Closing } from '../support/engineOn'
import { memoryJournal } from '../support/modbusSession'
import { startBroker } from '../support/mqttBroker'
import { pointsIn } from '../support/points'
import { testSecurity } from '../support/security'
import { until } from '../support/until'

/** Our link over TLS and websocket, with a certificate and a last will of its own; the broker is not ours. */

const closing: Closing = []
afterEach(() => closeAll(closing))

const pairFor = (commonName: string) =>
  makeSelfSigned({ commonName, organization: 'Harrow Sound', applicationUri: 'urn:quay:broker', dns: ['localhost'], ip: ['127.0.0.1'] })

const brokerOver = async (...args: Parameters<typeof startBroker>) => {
  const started = await startBroker(...args)
  closing.push(() => started.stop())
  return started
}

const settingsFor = (port: number, more: object) =>
  mqttSettings.parse({ host: '127.0.0.1', port, version: '3.1.1', patience: { retryFirst: 100, retryMost: 200, answer: 1500 }, ...more })

const open = async (port: number, more: object, topic = 'quay/gate') => {
  const [table, journal, security] = [new TagTable(), memoryJournal(), await testSecurity()]
  const session = new MqttLinkSession({
    ...{
      name: 'Quay',
      settings: settingsFor(port, more),
      table,
      journal,
      wire: new Wire(),
      security,
      meters: new Meters(),
      roots: () => [],
    },
    arrivals: new ArrivalDoor(new ArrivalBook(() => {})),
  })
  let isOpen = true
  const close = async () => {
    if (isOpen) await session.close()
    isOpen = false
  }
  closing.push(close)
  const [point] = pointsIn(table, [{ address: topic, type: 'string' }])
  session.setPoints([point!], [])
  return { session, table, journal, security, close, at: point!.handle }
}

const stepsOf = async (port: number, more: object): Promise<Record<string, CheckStep>> => {
  const found: Record<string, CheckStep> = {}
  const context = { wire: new Wire(), security: await testSecurity() }
  for await (const step of checkMqtt(settingsFor(port, more), AbortSignal.timeout(10_000), context)) found[step.step] = step
  return found
}

describe('TLS', () => {
  it('is agreed on where their certificate is of a known authority, and told in the check', async () => {
    const { certificate, key } = await pairFor('Quay broker')
    const there = await brokerOver({}, 0, { tls: { cert: certificate, key } })
    const more = { tls: { mode: 'verified', authority: certificate } }
    const link = await open(there.port, more)
    await until(() => link.session.status().connections === 1)
    await until(async () => {
      await there.publish('quay/gate', 'shut')
      return link.table.quality[link.at] === quality.Good
    })
    const steps = await stepsOf(there.port, more)
    expect(steps.tls).toMatchObject({
      flow: 'flowing',
      evidence: expect.stringMatching(/^TLSv1\.[23], certificate of Quay broker, valid until .+$/) as string,
    })
    expect(steps.back!.flow).toBe('flowing')
  })

  it.each([
    [
      'an authority that it is not of',
      async () => ({ mode: 'verified', authority: (await pairFor('Other')).certificate }),
      /self-signed|unable to verify|signature/i,
    ],
    ['no authority given', () => Promise.resolve({ mode: 'verified' }), /self-signed|unable to verify/i],
  ])('is refused with %s, and named', async (_, tlsOf, why) => {
    const { certificate, key } = await pairFor('Quay broker')
    const there = await brokerOver({}, 0, { tls: { cert: certificate, key } })
    const steps = await stepsOf(there.port, { tls: await tlsOf() })
    expect(steps.tls).toMatchObject({ flow: 'broken', fault: { code: 'mqtt.tls' } })
    expect(steps.tls!.fault!.what).toMatch(why)
    expect(steps.connack!.flow).toBe('off')
    const believing = await stepsOf(there.port, { tls: { mode: 'encrypted' } })
    expect(believing.back!.flow).toBe('flowing')
  })

  it('is named where the other side speaks none, and where it says nothing', async () => {
    const plain = await brokerOver()
    expect((await stepsOf(plain.port, { tls: { mode: 'encrypted' } })).tls).toMatchObject({ flow: 'broken', fault: { code: 'mqtt.tls' } })
    const mute = createServer((socket) => void socket.resume().on('error', () => {}))
    await new Promise<void>((resolve) => mute.listen(0, '127.0.0.1', resolve))
    closing.push(() => new Promise((resolve) => mute.close(resolve)))
    const { port } = mute.address() as { port: number }
    const steps = await stepsOf(port, { tls: { mode: 'encrypted' } })
    expect(steps.tls!.fault!.what).toContain('did not answer within 1500 ms')
  })

  it.each([
    ['ours', () => Promise.resolve({ kind: 'ours' })],
    [
      'another one',
      async () => {
        const { certificate, key } = await pairFor('Link')
        return { kind: 'own', certificate, key: { plain: key } }
      },
    ],
  ])('shows a certificate to a broker that asks for one: %s', async (_, shown) => {
    const { certificate, key } = await pairFor('Quay broker')
    const there = await brokerOver({}, 0, { tls: { cert: certificate, key, requestCert: true, rejectUnauthorized: false } })
    const seen: string[] = []
    there.broker.on('client', ({ conn }) => seen.push(String((conn as never as TLSSocket).getPeerCertificate().subject?.CN)))
    const link = await open(there.port, { tls: { mode: 'encrypted' }, certificate: await shown() })
    await until(() => link.session.status().connections === 1)
    const wanted = (await shown()).kind === 'ours' ? link.security.own.facts.name : 'Link'
    expect(seen[0]).toContain(wanted.replace(/^CN=/, '').split(',')[0])
  })
})

describe('a websocket', () => {
  it('carries it, at its path; another path is named', async () => {
    const there = await brokerOver({}, 0, { websocket: '/mqtt' })
    const link = await open(there.port, { over: 'websocket' })
    await until(() => link.session.status().connections === 1)
    await until(async () => {
      await there.publish('quay/gate', 'open')
      return link.table.values[link.at] === 'open'
    })
    expect((await stepsOf(there.port, { over: 'websocket' })).back!.flow).toBe('flowing')
    const elsewhere = await stepsOf(there.port, { over: 'websocket', path: '/elsewhere' })
    expect(elsewhere.tls).toMatchObject({ flow: 'broken', fault: { code: 'mqtt.websocket' } })
  })
})

describe('a last will', () => {
  it('is sent by the broker when the link is cut off, and not when it is switched off', async () => {
    const there = await brokerOver()
    const wills: string[] = []
    there.broker.on('publish', ({ topic, payload }) => topic === 'conduit/state' && wills.push(payload.toString()))
    const link = await open(there.port, { will: { topic: 'conduit/state', payload: 'gone' } })
    await until(() => link.session.status().connections === 1)
    there.drop()
    await until(() => wills.length === 1)
    await until(() => link.session.status().connections === 1)
    await link.close()
    await new Promise((resolve) => setTimeout(resolve, 100))
    expect(wills).toEqual(['gone'])
  })
})

describe('looking around', () => {
  const browserOf = async (port: number, more: object = {}) => (await open(port, more)).session.browser()
  const namesOf = ({ nodes }: { nodes: readonly { name: string }[] }) => nodes.map(({ name }) => name)

  it('shows topics level by level and what is in their payload, while the link itself hears nothing more', async () => {
    const there = await brokerOver()
    await there.publish('quay/lamp/1', '{"lux":7.5,"supply":{"volts":230,"ok":true},"ts":1795694400}', { retain: true })
    await there.publish('quay/lamp/1/state', '["on",3]', { retain: true })
    await there.publish('quay/gate', 'shut', { retain: true })
    const browser = await browserOf(there.port)
    expect(namesOf(await browser.children({ address: '', member: '#' }))).toEqual(['quay'])
    expect(namesOf(await browser.children({ address: 'quay', member: '' }))).toEqual(['gate', 'lamp'])
    expect(namesOf(await browser.children({ address: 'quay/lamp/1', member: '' }))).toEqual(['lux', 'supply', 'ts', 'state'])
    expect(namesOf(await browser.children({ address: 'quay/lamp/1', member: '$.supply' }))).toEqual(['volts', 'ok'])
    const [lux, ok, gate, level] = await browser.details([
      { address: 'quay/lamp/1', member: '$.lux' },
      { address: 'quay/lamp/1', member: '$.supply.ok' },
      { address: 'quay/gate', member: '' },
      { address: 'quay/lamp', member: '' },
    ])
    expect(lux).toMatchObject({ type: 'float64', value: 7.5, options: { path: '$.lux', time: '$.ts' }, sourceTime: 1795694400000 })
    expect([ok!.type, gate!.type, gate!.text, level!.type, level!.children]).toEqual(['bool', 'string', 'shut', null, 1])
  })

  it('takes a branch with all values in it, and finds by name', async () => {
    const there = await brokerOver()
    for (const lamp of [1, 2]) await there.publish(`quay/lamp/${lamp}`, '{"lux":7.5,"supply":{"volts":230}}', { retain: true })
    await there.publish('quay/picture', Buffer.from([0xff, 0xd8, 0x00]), { retain: true })
    const browser = await browserOf(there.port)
    await browser.children({ address: '', member: 'quay/#' })
    const points = []
    for await (const part of browser.branch({ address: 'quay', member: '' }, AbortSignal.timeout(5000))) points.push(...part.points)
    expect(points.map(({ names }) => names.join('/')).sort()).toEqual([
      'lamp/1/lux',
      'lamp/1/supply/volts',
      'lamp/2/lux',
      'lamp/2/supply/volts',
    ])
    const found = []
    for await (const part of browser.search('LAMP/2', AbortSignal.timeout(5000))) found.push(...part.found)
    expect(found.map(({ address }) => address)).toEqual(['quay/lamp/2'])
  })

  it('listens once, however many begin to look at the same moment', async () => {
    const there = await brokerOver()
    const browser = await browserOf(there.port)
    const root = { address: '', member: 'quay/#' }
    await Promise.all([browser.children(root), browser.children(root), browser.children(root)])
    await until(() => there.broker.connectedClients === 2)
    const looking = Object.keys((there.broker as unknown as { clients: object }).clients).filter((id) => id.startsWith('conduit-look-'))
    expect(looking).toHaveLength(1)
  })

  it('takes nothing from another who looks around with another filter, and no more than four listen', async () => {
    const there = await brokerOver()
    for (const topic of ['quay/lamp/1', 'berth/2/power', 'berth/2/count'])
      await there.publish(topic, '{"v":9007199254740993}', { retain: true })
    const browser = await browserOf(there.port)
    const root = (member: string) => browser.children({ address: '', member })
    expect(namesOf(await root('quay/#'))).toEqual(['quay'])
    expect(namesOf(await root('berth/+/power'))).toEqual(['berth'])
    expect(namesOf(await root('berth/+/count'))).toEqual(['berth'])
    expect(namesOf(await root('quay/#'))).toEqual(['quay'])
    expect(namesOf(await browser.children({ address: 'quay/lamp', member: '' }))).toEqual(['1'])
    expect(namesOf(await browser.children({ address: 'berth/2', member: '' }))).toEqual(['count', 'power'])
    const [count] = await browser.details([{ address: 'berth/2/count', member: '$.v' }])
    expect(count).toMatchObject({ type: 'int64', value: '9007199254740993', text: '9007199254740993' })
    for (const more of ['a', 'b', 'c']) await root(`${more}/#`)
    // the link itself, and four who look
    await until(() => there.broker.connectedClients === 5)
    expect(namesOf(await browser.children({ address: 'quay/lamp', member: '' }))).toEqual(['1'])
  })

  it('tells where the broker lets us listen to nothing, and what is no filter', async () => {
    const there = await brokerOver({
      authorizeSubscribe: (_, subscription, done) => done(null, subscription.topic === '#' ? null : subscription),
    })
    const browser = await browserOf(there.port)
    await expect(browser.children({ address: '', member: '#' })).rejects.toMatchObject({ why: { code: 'mqtt.filter-refused' } })
    await expect(browser.children({ address: '', member: 'a#' })).rejects.toMatchObject({ why: { code: 'mqtt.no-filter' } })
    await there.publish('quay/gate', 'shut', { retain: true })
    expect(namesOf(await browser.children({ address: '', member: 'quay/#' }))).toEqual(['quay'])
  })
})
