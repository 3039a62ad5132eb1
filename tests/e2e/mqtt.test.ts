import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { openBrowser, type Browser } from '../support/browser'
import { describedCalls } from '../support/describedCalls'
import { startBroker } from '../support/mqttBroker'
import { startSite, type Site } from '../support/site'
import { until } from '../support/until'

/** Messages by way of a broker that is not ours, from an empty site. */

let site: Site
let page: Browser
let broker: Awaited<ReturnType<typeof startBroker>>
let call: Awaited<ReturnType<typeof describedCalls>>['call']
let sending: NodeJS.Timeout

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
  await page?.close()
  await site?.stop()
  await broker?.stop()
})

describe('an MQTT link', () => {
  it('is made from its broker, and checked to a message of its own that comes back', async () => {
    await page.go('/links/new?kind=mqtt')
    await page.type('Broker', '127.0.0.1')
    await page.type('Port', String(broker.port))
    await page.sees('Unacceptable protocol version')
    await page.sees('Choose the other version of MQTT')
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
    await page.type('Inside the payload', '$.people')
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
