import mqtt from 'mqtt'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { openBrowser, type Browser } from '../support/browser'
import { describedCalls } from '../support/describedCalls'
import { startBroker } from '../support/mqttBroker'
import { startSite, type Site } from '../support/site'
import { until } from '../support/until'
import { freePort } from '../../launcher/ports.mjs'

/** Messages by way of a broker that is not ours, from an empty site. */

let site: Site
let page: Browser
let broker: Awaited<ReturnType<typeof startBroker>>
let call: Awaited<ReturnType<typeof describedCalls>>['call']
let sending: NodeJS.Timeout
const closing: (() => Promise<unknown>)[] = []

beforeAll(async () => {
  broker = await startBroker()
  let count = 0
  sending = setInterval(() => {
    void broker.publish('quay/counter/1', JSON.stringify({ people: ++count, lamp: { lux: 12.5 } }))
    void broker.publish('quay/unclaimed', 'hello')
  }, 200)
  site = await startSite()
  ;({ call } = await describedCalls(site))
  page = await openBrowser(site.base, site.cookie)
})
afterAll(async () => {
  clearInterval(sending)
  for (const close of closing) await close().catch(() => {})
  await page?.close()
  await site?.stop()
  await broker?.stop()
})

const quayId = async () => ((await call('GET', '/links')).body.items as { id: number }[])[0]!.id

describe('an MQTT link', () => {
  it('is made from its broker, and checked to a message of its own that comes back', async () => {
    await page.go('/links/new?kind=mqtt')
    await page.type('Broker', '127.0.0.1')
    await page.type('Port', String(broker.port))
    await page.sees(/MQTT 3\.1\.1, as the broker does not speak 5\.0[\s\S]*came back/)
    await page.pressContaining('Session')
    await page.choose('MQTT', '3.1.1')
    await page.sees(/A message of ours[\s\S]*came back/)
    await page.type('Name', 'Quay counters')
    await page.press('Save link')
    await page.sees('Connected, no tags yet')
  })

  it('brings a part of each message as a tag, which is tried before it is made', async () => {
    await page.go('/tags/new')
    await page.type('Address', 'quay/counter/1')
    await page.sees(/no float64|is no number/)
    await page.pressContaining('people')
    expect(await page.valueOf('Inside the payload')).toBe('$.people')
    await page.sees(/Message[\s\S]*"people"[\s\S]*Read as float64/)
    await page.choose('Type', 'int32')
    await page.sees(/Message[\s\S]*"people"[\s\S]*Read as int32/)
    await page.type('Path', 'quay/people')
    await page.press('Save tag')
    const tag = async () => ((await call('GET', '/tags?find=quay/people')).body.items as { id: number; source: object }[])[0]
    await until(tag, (found) => found !== undefined)
    expect((await tag())!.source).toMatchObject({ address: 'quay/counter/1', options: { path: '$.people' } })
    await page.go('/tags')
    await page.sees(/quay\/\s*people[\s\S]*Good[\s\S]*as sent/)
  })

  it('is looked around in: topics as they come, parts of their payload, and many taken as tags', async () => {
    await page.go(`/links/${await quayId()}`)
    await page.press('Take points')
    await page.sees(/heard on #[\s\S]*quay/)
    await page.pressRow('quay')
    await page.sees(/counter[\s\S]*unclaimed/)
    await page.pressRow('counter')
    await page.press('Take everything below')
    await page.sees(/1\.people[\s\S]*float64/)
    await page.press('Make 2 tags')
    const made = async () => (await call('GET', '/tags?find=lux')).body.items as { source: object }[]
    await until(made, (found) => found.length === 1)
    expect((await made())[0]!.source).toMatchObject({ address: 'quay/counter/1', options: { path: '$.lamp.lux' } })
  })

  it('offers what nobody claims for a bridge, in one press', async () => {
    await page.go(`/links/${await quayId()}`)
    await page.press('listen around')
    await page.pressRow('quay')
    await page.pressRow('unclaimed')
    await page.press('Bridge it')
    await page.sees(/When\s+a message comes on quay\/unclaimed over Quay counters/)
  })

  it('says what is wrong with a topic and a path as they are typed', async () => {
    await page.go('/tags/new')
    await page.type('Address', 'quay/+/lux')
    await page.leave('Address')
    await page.sees('those stand for many')
    await page.type('Address', 'quay/counter/1')
    await page.type('Inside the payload', 'people')
    await page.leave('Inside the payload')
    await page.sees('A path begins with “$”')
  })
})

describe('an MQTT outlet', () => {
  let port: number
  const from = async (options: mqtt.IClientOptions = {}) => {
    const client = await mqtt.connectAsync(`mqtt://127.0.0.1:${port}`, { protocolVersion: 4, reconnectPeriod: 0, ...options })
    closing.push(() => client.endAsync(true))
    const heard: string[] = []
    client.on('message', (topic, payload) => heard.push(`${topic} ${payload.toString()}`))
    return { client, heard }
  }

  it('says at the field what cannot be, and opens with what it publishes', async () => {
    port = await freePort()
    await call('POST', '/tags', {
      tags: [{ path: 'gate/limit', type: 'float64', access: 'readwrite', source: { kind: 'memory', start: '5' } }],
    })
    await page.go('/outlets/new?kind=mqtt-broker')
    await page.type('Port', String(port))
    await page.type('Topic', 'port/{nowhere}')
    await page.leave('Topic')
    await page.sees('is none of {path}')
    await page.type('Topic', 'port/{path}')
    await page.type('Topic that sets a tag', 'port/{path}/set')
    await page.pressBox('By name and password')
    await page.press('Add a name')
    await page.type('Name 1', 'gatekeeper')
    await page.type('Password 1', 'open the gate')
    await page.choose('Rights of gatekeeper, filter 1 may be', 'listen and send')
    await page.press('Open the outlet')
    await page.sees(/no client connected, \d+ topics published/)
  })

  it('brings tags to whoever listens, lets them be set by name, and shows who was refused', async () => {
    const panel = await from({ clientId: 'panel' })
    await panel.client.subscribeAsync('port/gate/#')
    await until(() => panel.heard.some((one) => one.startsWith('port/gate/limit {"value":5,')))
    await panel.client.publishAsync('port/gate/limit/set', '6', { qos: 1 })
    await page.sees(/panel[\s\S]*sent to port\/gate\/limit\/set, and may not/)
    const keeper = await from({ clientId: 'keeper', username: 'gatekeeper', password: 'open the gate' })
    await keeper.client.publishAsync('port/gate/limit/set', '7.5', { qos: 1 })
    await until(() => panel.heard.some((one) => one.startsWith('port/gate/limit {"value":7.5,')))
    await page.sees(/keeper[\s\S]*gatekeeper[\s\S]*not encrypted/)
    const { body } = await call('GET', '/writes?find=gate')
    expect((body.items as object[])[0]).toMatchObject({ who: 'keeper, as gatekeeper', via: 'client', value: '7.5', ok: true })
  })

  it('is checked at its door as a client comes to it', async () => {
    await page.press('Check this door')
    await page.sees(/Answer[\s\S]*CONNACK, let in without a name/)
  })

  it('is where a bridge begins and ends: what a client sends goes on to another topic', async () => {
    const keeper = await from({ username: 'gatekeeper', password: 'open the gate' })
    await keeper.client.publishAsync('crew/hours', '{"who":"Ida","hours":7}', { qos: 1 })
    await page.sees(/Messages that nobody claims[\s\S]*crew\/hours/)
    await page.press('Bridge it')
    await page.type('Name', 'Crew hours')
    await page.pressContaining('the tag')
    await page.choose('Send to', 'a topic of an outlet')
    await page.type('Topic', 'office/{part2}')
    await page.type('Name in the message 1', 'text')
    await page.press('Save bridge')
    await page.sees('It has not run yet')
    const office = await from()
    await office.client.subscribeAsync('office/#')
    await keeper.client.publishAsync('crew/hours', '{"who":"Ida","hours":8}', { qos: 1 })
    await until(() => office.heard.length > 0)
    expect(office.heard[0]).toBe('office/hours {"text":"{\\"who\\":\\"Ida\\",\\"hours\\":8}"}')
  })

  it('is not removed while a bridge needs it', async () => {
    const [outlet] = (await call('GET', '/outlets')).body.items as { id: number }[]
    expect(await call('DELETE', `/outlets/${outlet!.id}`)).toMatchObject({ status: 409, body: { fault: { code: 'entry.bridged' } } })
  })
})
