import { By } from 'selenium-webdriver'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { Link } from '#shared/links/link'
import type { TagNote } from '#shared/notes'
import type { Tag } from '#shared/tags'
import { openBrowser, type Browser } from '../support/browser'
import { describedCalls } from '../support/describedCalls'
import { startSite, type Site } from '../support/site'
import { pointBody } from '../support/tagBodies'
import { until } from '../support/until'

/** Mapping without mistakes: what is to be said of tags, what it asks of the plant, and trying things. */

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

const tagAt = (path: string, address: string, more = {}) => pointBody({ path, linkId: link.id, address, type: 'float32', ...more })
const makeTags = async (...tags: object[]) => (await call('POST', '/tags', { tags })).body as unknown as Tag[]

describe('notes', () => {
  it('are listed by kind, accepted for a reason in one revision, and count again', async () => {
    const [wide, part] = await makeTags(
      // seldom enough for a machine that has much else to do
      tagAt('noted/wide', '13:holding/300', { type: 'float64', interval: 60_000 }),
      tagAt('noted/part', '13:holding/302', { type: 'int16', interval: 60_000 }),
    )
    const notes = async (query: string) =>
      (await call('GET', `/notes?find=noted&${query}`)).body as unknown as { total: number; items: (TagNote & { id: number })[] }
    // the meter has nothing there: that is noted, too, as soon as it has been asked
    const ofPlace = async () => [...(await notes('kind=inside')).items, ...(await notes('kind=overlap')).items]
    expect((await ofPlace()).map(({ id, kind }) => [id, kind])).toEqual([
      [part!.id, 'inside'],
      [wide!.id, 'overlap'],
    ])
    expect((await notes('kind=overlap')).total).toBe(1)
    const [{ id, key }] = (await notes('kind=inside')).items as unknown as [{ id: number; key: string }]
    const accept = (reason: string | null) => call('POST', '/notes/accept', { notes: [{ id, key }], reason })
    const { revision } = (await accept('the low word alone')).body as unknown as { revision: number }
    expect((await ofPlace()).map(({ id }) => id)).toEqual([wide!.id])
    expect((await notes('accepted=only')).items).toMatchObject([{ id, accepted: 'the low word alone' }])
    await call('POST', `/revisions/${revision}/take-back`)
    expect(await ofPlace()).toHaveLength(2)
    expect((await call('POST', '/notes/accept', { notes: [{ id: 999_999, key }], reason: 'x' })).status).toBe(404)
  })

  it('are told before a tag is saved, and of what the device refuses', async () => {
    await makeTags(tagAt('told/first', '12:holding/400', { type: 'uint32' }), tagAt('told/refused', '12:holding/46'))
    const preview = await call('POST', '/notes/preview', { tag: tagAt('told/second', '12:holding/401', { type: 'int16' }) })
    expect(preview.body).toMatchObject([{ kind: 'inside', text: expect.stringContaining('told/first') as string }])
    const refused = () => call('GET', '/notes?find=told%2Frefused')
    await until(async () => ((await refused()).body.items as TagNote[]).some(({ kind }) => kind === 'refused'), Boolean, 20)
  })
})

describe('a tag sheet', () => {
  it('says what is to be said, and what it does to the round, as it is typed', async () => {
    await makeTags(tagAt('sheet/wide', '13:holding/80', { type: 'float64' }))
    await page.go(`/tags/new?link=${link.id}`)
    await page.type('Path', 'sheet/new')
    await page.type('Address', '13:holding/82')
    await page.sees('is part of sheet/wide')
    await page.type('Address', '13:holding/2000')
    await until(async () => {
      const text = await page.text()
      const [, before, after] = /What it does to the round[\s\S]*?(\d+) requests?[\s\S]*?(\d+) requests/.exec(text) ?? []
      return !text.includes('is part of sheet/wide') && Number(after) === Number(before) + 1
    })
  })

  it('keeps what becomes of odd values, which changes are passed on, and the unit', async () => {
    const [tag] = await makeTags(tagAt('sheet/chosen', 'holding/96', { type: 'int16', unit: '°C', scaling: { gain: 0.1, offset: 0 } }))
    await page.go(`/tags/${tag!.id}`)
    await page.choose('Gives values in', '°F')
    await page.pressContaining('Passed on')
    await page.type('Deadband', '0.5')
    await page.type('At least every', '50')
    await page.pressContaining('Odd values')
    await page.type('Error codes', '0x18000')
    await page.press('Save changes')
    await page.sees(/100 to 86,400,000 ms[\s\S]*no raw value of a int16/)
    await page.type('At least every', '60000')
    await page.type('Error codes', '0x8000; 32767 -10')
    await page.press('Save changes')
    await page.sees(/sheet\/chosen saved/)
    expect((await call('GET', `/tags/${tag!.id}`)).body).toMatchObject({
      rawUnit: '°F',
      reports: { deadband: { kind: 'absolute', value: 0.5 }, least: null, most: 60_000 },
      odd: {
        codes: [
          { raw: '0x8000', then: 'bad' },
          { raw: '32767', then: -10 },
        ],
      },
    })
  })
})

describe('names of values', () => {
  it('are typed in a line, which says what cannot be read, and stand wherever the value does', async () => {
    const [tag] = await makeTags({ path: 'named/plug', source: { kind: 'memory', start: 2 }, type: 'int16', access: 'readwrite' })
    await page.go(`/tags/${tag!.id}`)
    await page.type('Names of values', '0 = no plug; seated')
    await page.sees('“seated” names no value: as in 0 = off; 1 = on.')
    await page.press('Save changes')
    expect((await call('GET', `/tags/${tag!.id}`)).body).toMatchObject({ names: [] })
    await page.type('Names of values', '0 = no plug; 2 = seated; 2 = twice')
    await page.leave('Names of values')
    await page.sees('2 has two names.')
    await page.type('Names of values', '0 = no plug; 2 = seated')
    await page.press('Save changes')
    await page.sees(/named\/plug saved/)
    await page.go('/tags?below=named')
    await page.sees(/plug\s*2 = seated/)
    await page.go(`/tags?tag=${tag!.id}`)
    await page.type('New value', 'no plug')
    await page.press('Write')
    await page.sees(/Written\. [^.]* now holds 0 no plug/)
  })
})

describe('many after one', () => {
  it('are a series whose paths count and whose addresses step by the width, seen before they are made', async () => {
    const [tag] = await makeTags(tagAt('series/module_01/power', '14:holding/100', { unit: 'kW' }))
    await page.go(`/tags/series?like=${tag!.id}`)
    await page.sees('series/module_20/power')
    await page.type('How many', '200')
    await page.press('Make 199 tags')
    await page.sees('199 tags made')
    const last = (await call('GET', '/tags?find=module_200')).body.items as Tag[]
    expect(last).toMatchObject([{ path: 'series/module_200/power', unit: 'kW', source: { address: '14:holding/498' } }])

    await page.go(`/tags/series?like=${tag!.id}`)
    await page.sees('Is there already, and left as it is.')
    await page.type('How many', '202')
    await page.press('Make 2 tags')
    await page.sees('2 tags made')
    expect((await call('GET', '/tags?find=series/module_')).body.total).toBe(202)
  })

  it('are a folder once more, on another unit, with formulas that read the copies', async () => {
    await makeTags(tagAt('plant/1/power', '11:holding/40'), tagAt('plant/1/current', '11:holding/44'), {
      path: 'plant/1/share',
      type: 'float64',
      source: { kind: 'formula', formula: 'p / c', inputs: { p: 'plant/1/power', c: 'plant/1/current' } },
    })
    expect((await call('POST', '/tags/copy', { from: 'plant/1', to: 'plant/1/again' })).status).toBe(422)
    expect((await call('POST', '/tags/copy', { from: 'plant/1', to: 'plant/2', unit: 'x' })).status).toBe(422)
    await page.go('/tags?below=plant/1')
    await page.press('Copy')
    await page.type('Unit', '12')
    await page.find('form.dialog button[type=submit]').then((button) => button.click())
    await page.sees('3 tags copied from plant/1 to plant/2')
    const copies = (await call('GET', '/tags?below=plant/2')).body.items as Tag[]
    expect(copies.map(({ path, source }) => [path, source.kind === 'point' ? source.address : source])).toEqual([
      ['plant/2/current', '12:holding/44'],
      ['plant/2/power', '12:holding/40'],
      ['plant/2/share', expect.objectContaining({ inputs: { p: 'plant/2/power', c: 'plant/2/current' } })],
    ])
    expect((await call('POST', '/tags/copy', { from: 'plant/1', to: 'plant/2' })).status).toBe(409)
  })

  it('a formula is made on its sheet, with what comes of it, and one that reads itself is refused by name', async () => {
    await makeTags({ path: 'made/a', type: 'float64', access: 'readwrite', source: { kind: 'memory', start: 4 } })
    await page.go('/tags/new')
    await page.type('Path', 'made/double')
    await page.choose('Values from', 'Formula')
    await page.type('Formula', 'a * 2 +')
    await page.sees(/At character \d+/)
    await page.type('Formula', 'a * 2')
    await page.type('a is the tag', 'made/a')
    await page.sees(/= 8/)
    await page.press('Save tag')
    await page.sees('made/double saved')
    const [made] = (await call('GET', '/tags?find=made%2Fdouble')).body.items as Tag[]
    const source = { kind: 'formula', formula: 'a', inputs: { a: 'made/double' } }
    const answer = await call('PUT', `/tags/${made!.id}`, { revision: made!.revision, tag: { ...made, source } })
    expect(answer.body.fields).toMatchObject([
      { path: 'source.inputs', message: expect.stringContaining('made/double → made/double') as string },
    ])
  })
})

describe('the page of notes', () => {
  it('takes many at once, for one reason', async () => {
    await makeTags(...[0, 1, 2].map((n) => tagAt(`copies/${n}`, '13:holding/900', { type: 'int16' })))
    await page.go('/tags/notes?kind=duplicate')
    await page.sees(/reads the same as copies\//)
    await page.type('Filter notes', 'copies/')
    await page.sees(/\b3 notes/)
    await page.press('Choose all')
    await page.type('Why they are right as they are', 'three names for one register')
    await page.press('Accept')
    await page.sees(/3 notes accepted/)
    const [first] = (await site.list('/tags?find=copies')) as Tag[]
    expect(first!.accepted.map(({ reason }) => reason)).toContain('three names for one register')
  })
})

describe('the grid', () => {
  it('is ordered by any of the columns that tags are told apart by, addresses by their numbers', async () => {
    await makeTags(
      tagAt('order/a', '14:holding/1000', { unit: 'kW' }),
      tagAt('order/b', '14:holding/900', { unit: 'A' }),
      tagAt('order/c', '14:holding/20', { unit: 'V' }),
    )
    const listed = async (sort: string) =>
      ((await call('GET', `/tags?below=order&sort=${sort}`)).body.items as Tag[]).map(({ path }) => path.at(-1)).join('')
    expect(await listed('address')).toBe('cba')
    expect(await listed('-address')).toBe('abc')
    expect(await listed('unit')).toBe('bac')
    expect(await listed('link')).toBe('abc')

    await page.go('/tags/grid?below=order')
    await page.sees('3 tags')
    const shown = () =>
      page.driver.executeScript<string>(
        'return [...document.querySelectorAll("[data-column=\\"0\\"] .name")].map((cell) => cell.innerText).join("")',
      )
    await until(shown, (text) => text === 'abc')
    const head = () => page.driver.findElement(By.css('[aria-label="Order by address"]'))
    await (await head()).click()
    await until(shown, (text) => text === 'cba')
    await (await head()).click()
    await until(shown, (text) => text === 'abc')
    expect(await page.driver.getCurrentUrl()).toContain('sort=-address')
    expect(await page.driver.findElement(By.css('[aria-sort]')).getText()).toContain('address')
  })
})
