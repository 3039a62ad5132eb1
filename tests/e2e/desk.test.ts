import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { Key } from 'selenium-webdriver'
import type { BenchEntry } from '#shared/bench'
import type { Link } from '#shared/links/link'
import type { Tag } from '#shared/tags'
import type { WatchList } from '#shared/watch'
import type { ListedWrite } from '#shared/writes'
import { openBrowser, type Browser } from '../support/browser'
import { describedCalls } from '../support/describedCalls'
import { signInTo } from '../support/signIn'
import { startSite, type Site } from '../support/site'
import { pointBody } from '../support/tagBodies'
import { until } from '../support/until'

/** What a person has at hand: the bench, and watch lists. */

let site: Site
let page: Browser
let link: Link
let call: Awaited<ReturnType<typeof describedCalls>>['call']
beforeAll(async () => {
  site = await startSite()
  ;({ call } = await describedCalls(site))
  const settings = { host: '127.0.0.1', port: site.modbusPort, unit: 11, order: 'CDAB', interval: 100 }
  link = (await call('POST', '/links', { name: 'Meters', kind: 'modbus-tcp', settings })).body as unknown as Link
  page = await openBrowser(site.base, site.cookie)
})
afterAll(async () => {
  await page?.close()
  await site?.stop()
})

const benchOf = async () => (await call('GET', '/bench')).body.items as unknown as BenchEntry[]
const press = (...keys: string[]) =>
  page.driver
    .actions()
    .sendKeys(...keys)
    .perform()

describe('the bench', () => {
  it('asks for a link first, then reads what is typed once, with its bytes and readings', async () => {
    await page.go('/bench')
    await page.sees('No tag is made')
    await page.type('Address', '40091')
    await page.sees('holding/90')
    await page.choose('Type', 'float32')
    await page.press('Read once')
    await page.sees(/How this value is made[\s\S]*Words on the wire[\s\S]*Read as float32, CDAB/)
    await page.sees(/read once/)
    expect(await benchOf()).toMatchObject([{ address: 'holding/90', type: 'float32', last: { did: 'read', ok: true } }])
    expect((await call('GET', '/tags')).body.total).toBe(0)
  })

  it('reads several in a row over and over, beside one that the device does not have', async () => {
    await page.type('Address', '12:holding/44')
    await page.choose('Type', 'uint16')
    await page.type('How many in a row', '3')
    await page.sees('3 points, 12:holding/44 to 12:holding/46')
    await page.press('Keep reading')
    await page.sees(/12:holding\/44\s+uint16\s+[^\n]*\d[\s\S]*Good/)
    await page.sees(/12:holding\/46[\s\S]*exception 2/)
    await page.sees('3 read over and over')
    await page.go('/bench')
    await page.sees('3 read over and over')
    await page.press('Stop all')
  })

  it('takes another reading of the words, and writes, which the journal tells', async () => {
    const row = await page.row('holding/90')
    await row.click()
    await page.sees('New value')
    await page.type('New value', '2100')
    await page.press('Write')
    await page.sees('Written. The far side now holds 2100')
    const written = await until(
      async () => (await call('GET', '/writes?find=Meters')).body.items as ListedWrite[],
      (all) => all.length > 0,
    )
    expect(written).toMatchObject([{ who: site.admin.name, via: 'page', tagId: null, value: '2100', ok: true }])
    expect(written[0]!.path).toMatch(/^Meters\|holding\/90\|float32/)
    await page.driver.executeScript('document.activeElement.blur()')
    await press('r')
    await page.press('use this')
    await until(async () => (await benchOf()).some(({ address, type }) => address === 'holding/90' && type !== 'float32'))
  })

  it('makes a tag of what was tried, and still has it after a reload', async () => {
    await page.press('Make it a tag')
    await page.sees('New tag')
    expect(await page.valueOf('Address')).toBe('holding/90')
    await page.go('/bench')
    await page.sees('4 points')
    await page.press('Clear…')
    await page.press('Clear it')
    await page.sees('No tag is made')
    expect(await benchOf()).toEqual([])
  })

  it('lays unknown registers out, finds what a faceplate shows, and makes tags of it', async () => {
    await page.go('/bench/block')
    await page.type('First register', '11:holding/40')
    await page.type('How many registers', '14')
    await page.press('Watch')
    await page.sees(/Watched for [3-9] s[\s\S]*low word first \(CDAB\)/)
    await page.sees(/11:holding\/40\s+2\s+float32 CDAB[\s\S]*11:holding\/42\s+2\s+float32 CDAB[\s\S]*steady/)
    await page.sees(/11:holding\/46 and 3 more[\s\S]*exception 2/)
    await page.press('Hold still')
    await page.sees('Held still.')
    const shown = /holding\/42\s+2\s+float32 CDAB\s+(\d+)/.exec(await page.text())![1]!
    await page.type('What a faceplate shows', shown)
    await page.sees(/as on the faceplate/)
    await page.pressBox('Choose 11:holding/40')
    await page.pressBox('Choose 11:holding/42')
    await page.type('Below the folder', 'found/berth')
    await page.press('Make 2 tags')
    await page.sees('2 tags made')
    const made = (await call('GET', '/tags?below=found')).body.items as Tag[]
    expect(made.map(({ path, type, source }) => [path, type, source.kind === 'point' && source.address])).toEqual([
      ['found/berth/11_holding_40', 'float32', '11:holding/40'],
      ['found/berth/11_holding_42', 'float32', '11:holding/42'],
    ])
    await call('POST', '/tags/remove', { ids: made.map(({ id }) => id) })
    const block = (body: object) => call('POST', '/bench/block', { linkId: link.id, count: 4, ...body })
    expect((await block({ address: 'coil/3' })).body.fields).toMatchObject([{ path: 'address' }])
    expect((await block({ address: 'holding/65534' })).body.fields).toMatchObject([{ path: 'count' }])
    expect((await block({ address: 'holding/1', count: 126 })).body.fields).toMatchObject([{ path: 'count' }])
    expect((await block({ address: 'holding/1', linkId: 4711 })).status).toBe(404)
  })

  it('refuses as a tag would be refused, all points at once, and nothing of them stays', async () => {
    const points = [
      { linkId: link.id, address: 'holding/1', type: 'uint16' },
      { linkId: link.id, address: 'coil/3', type: 'float32' },
      { linkId: 4711, address: 'holding/1', type: 'uint16' },
      { linkId: link.id, address: 'x\u0000y', type: 'uint16' },
    ]
    const paths = async (all: object[]) => (await call('POST', '/bench', { points: all })).body.fields?.map(({ path }) => path)
    expect(await paths(points.slice(0, 3))).toEqual(['points.1.type', 'points.2.linkId'])
    expect(await paths(points.slice(3))).toEqual(['points.0.address'])
    expect(await benchOf()).toEqual([])
  })

  it('takes no more than it holds, also from sixteen at once', async () => {
    const points = Array.from({ length: 100 }, (_, i) => ({ linkId: link.id, address: `holding/${i}`, type: 'uint16' }))
    const answers = await Promise.all(Array.from({ length: 16 }, () => call('POST', '/bench', { points })))
    expect(answers.filter(({ status }) => status === 200)).toHaveLength(5)
    expect(answers.find(({ status }) => status === 409)!.body.fault!.code).toBe('bench.full')
    const ids = ((await call('GET', '/bench?limit=500')).body.items as unknown as BenchEntry[]).map(({ id }) => id)
    expect((await call('POST', '/bench/remove', { ids })).body.removed).toBe(500)
  }, 60_000)
})

describe('watch lists', () => {
  it('take the chosen tag by a key, and show how it goes', async () => {
    const tags = ['berth/power', 'berth/current'].map((path, i) =>
      pointBody({ path, linkId: link.id, address: `11:holding/${40 + 4 * i}`, type: 'float32' }),
    )
    await call('POST', '/tags', { tags: [...tags, { path: 'berth/name', type: 'string', source: { kind: 'memory', start: 'two' } }] })
    await page.go('/tags')
    await page.sees('power')
    await (await page.row('power')).click()
    await page.sees('How this value is made')
    await press('w')
    await page.sees('1 tag added to “My watch list”')
    await press('g', 'w')
    await page.sees('Watch lists')
    await page.type('Watch a tag, or all of a folder', 'berth/')
    await page.press('Add')
    await page.sees('3 tags ·')
    await until(async () =>
      /Between [\d.]+ and [\d.]+/.test((await page.driver.executeScript('return document.querySelector("canvas[role=img]").ariaLabel'))!),
    )
    await page.sees(/power[\s\S]{0,80}Good[\s\S]{0,60}\d+\.\d+[\s\S]{0,20}\d+\.\d+/)
  })

  it('are put in order, written from, shared, called otherwise and removed', async () => {
    const mine = async () => ((await call('GET', '/watch-lists')).body.items as unknown as WatchList[])[0]!
    const before = await mine()
    await (await page.row('name')).click()
    await page.sees('The last five minutes')
    await page.driver.actions().keyDown(Key.ALT).sendKeys(Key.ARROW_UP).keyUp(Key.ALT).perform()
    await until(async () => (await mine()).tags[1] === before.tags[2])
    await page.driver.findElement({ css: 'input[type=checkbox]' }).then((box) => box.click())
    await until(async () => (await mine()).shared)
    await page.press('Rename')
    await page.type('Name', 'Berth two')
    await page.press('Save')
    await until(async () => (await mine()).name === 'Berth two')
    // keys go to the list again once the question is gone
    await until(
      () => page.driver.findElements({ css: '.v-overlay--active' }),
      (open) => open.length === 0,
    )
    await press(Key.DELETE)
    await page.sees('2 tags ·')

    const { person, password } = (await call('POST', '/people', { name: 'Berthing master', role: 'look' })).body as never as {
      person: object
      password: string
    }
    expect(person).toBeTruthy()
    const cookie = await signInTo(site.base, 'Berthing master', password)
    const as = (method: string, path: string, body?: object) =>
      call(method, path, body, { cookie, ...(body ? { 'content-type': 'application/json' } : {}) })
    await as('PUT', '/session/password', { present: password, next: 'the one on the quay' })
    const { items } = (await as('GET', '/watch-lists')).body as unknown as { items: WatchList[] }
    expect(items).toMatchObject([{ name: 'Berth two', mine: false, owner: site.admin.name }])
    expect((await as('PUT', `/watch-lists/${items[0]!.id}`, { name: 'Mine now' })).status).toBe(404)
    expect((await as('POST', `/watch-lists/${items[0]!.id}/tags`, { remove: items[0]!.tags })).status).toBe(404)
    await call('PUT', `/watch-lists/${items[0]!.id}`, { ...items[0]!, shared: false, tags: items[0]!.tags, name: 'Berth two' })
    expect((await as('GET', `/watch-lists/${items[0]!.id}`)).status).toBe(404)
    await page.press('Remove…')
    await page.press('Remove the list')
    await page.sees('No watch list yet')
  }, 60_000)

  it('let a tag go that is removed, and have it again when that is taken back', async () => {
    const { items } = (await call('GET', '/tags')).body as unknown as { items: Tag[] }
    const ids = items.map(({ id }) => id)
    const { id } = (await call('POST', '/watch-lists', { name: 'All', tags: ids })).body as unknown as { id: number }
    const { revision } = (await call('POST', '/tags/remove', { ids: [ids[0]] })).body as unknown as { revision: number }
    const shown = async () => ((await call('GET', `/watch-lists/${id}`)).body.watched as Tag[]).map((tag) => tag.id)
    expect(await shown()).toEqual(ids.slice(1))
    await call('POST', `/revisions/${revision}/take-back`)
    expect(await shown()).toEqual(ids)
  })
})
