import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { openBrowser, type Browser } from '../support/browser'
import { describedCalls } from '../support/describedCalls'
import { startSite, type Site } from '../support/site'
import { until } from '../support/until'
import { json, startWebApi } from '../support/webApi'

/** A web API of somebody else, from an empty site to a tag, and what it is like when it says something else. */

let site: Site
let page: Browser
let api: Awaited<ReturnType<typeof startWebApi>>
let call: Awaited<ReturnType<typeof describedCalls>>['call']

beforeAll(async () => {
  api = await startWebApi(({ url, headers }, response) => {
    if (headers['x-api-key'] !== 'harrow') return json(response, { error: 'who is it?' }, 401)
    if (!url.startsWith('/v1/tariffs/')) return json(response, { error: 'nothing there' }, 404)
    json(response, { zone: decodeURIComponent(url.split('/').at(-1)!), hours: [{ price: 41.75 }, { price: 38.5 }] })
  })
  site = await startSite()
  ;({ call } = await describedCalls(site))
  page = await openBrowser(site.base, site.cookie)
})
afterAll(async () => {
  await page?.close()
  await site?.stop()
  await api?.stop()
})

describe('a web API', () => {
  it('is entered, checked as it is typed, tried, and its answer kept as the example', async () => {
    await page.go('/links/new?kind=http')
    await page.type('Base address', 'tariffs')
    await page.leave('Base address')
    await page.sees('An address begins with http:// or https://, and a host.')
    await page.type('Base address', `${api.base}/v1`)
    await page.sees(/First answer[\s\S]*401/)
    await page.choose('We sign in by', 'a key')
    await page.type('Key', 'harrow')
    await page.sees(/First answer[\s\S]*status 404, not found; it answers/)
    await page.press('Add an operation')
    await page.type('Name of the operation', 'tariff')
    await page.type('Path', '/tariffs/{zone}')
    await page.press('Try it')
    await page.type('zone', 'nord øst')
    await page.press('Send it once')
    await page.sees(/GET http:\/\/127\.0\.0\.1:\d+\/v1\/tariffs\/nord%20%C3%B8st\s*200 OK/)
    await page.sees(/hours\s*2 in a list[\s\S]*price\s*41\.75/)
    await page.press('Keep this answer as the example')
    await page.press('Save link')
    await page.sees('127.0.0.1 is there, no tags yet')
    const [saved] = (await call('GET', '/links')).body.items as { settings: { operations: { example: string }[]; signIn: object } }[]
    expect(saved!.settings.operations[0]!.example).toContain('nord øst')
    expect(saved!.settings.signIn).toMatchObject({ kind: 'key', key: { kept: true } })
  })

  it('becomes a tag by pressing a part of the example', async () => {
    await page.go('/tags/new')
    await page.type('Address', 'tariff')
    await page.leave('Address')
    await page.sees('also asks for zone')
    await page.type('Address', 'tariff?zone=nord')
    await page.driver.executeScript(`document.querySelector('[title="$.hours[1].price"]').click()`)
    await until(async () => (await page.valueOf('Inside the answer')) === '$.hours[1].price')
    await page.type('Inside the answer', '$.hours[*].price')
    await page.sees('The path gives 2 values; one is taken.')
    await page.type('Inside the answer', '$.hours[1].price')
    await page.sees(/Answer[\s\S]*status 200[\s\S]*Read as float64[\s\S]*38\.5/)
    await page.type('Path', 'tariff/next')
    await page.press('Save tag')
    await page.go('/tags')
    await page.sees(/tariff\/\s*next[\s\S]*38\.5[\s\S]*Good/)
  })

  it('that lets us in no more is told at link and tag, with what to do', async () => {
    const id = ((await call('GET', '/links')).body.items as { id: number }[])[0]!.id
    api.answers((_asked, response) => json(response, {}, 403))
    const link = (await call('GET', `/links/${id}`)).body as { revision: number; name: string; settings: object }
    const settings = { ...link.settings, interval: 200 }
    expect((await call('PUT', `/links/${id}`, { revision: link.revision, link: { name: link.name, kind: 'http', settings } })).status).toBe(
      200,
    )
    await page.go(`/links/${id}`)
    await page.sees(/answered with status 403: not allowed\.[\s\S]*that this account may ask for it/)
    await page.go('/tags')
    await page.sees('the user may not do this')
    api.answers((_asked, response) => json(response, { hours: [{ price: 1 }, { price: 2.25 }] }))
    await page.sees(/2\.25[\s\S]*Good/, 30)
  })
})
