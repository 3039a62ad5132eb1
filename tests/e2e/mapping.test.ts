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
      tagAt('noted/wide', '13:holding/300', { type: 'float64' }),
      tagAt('noted/part', '13:holding/302', { type: 'int16' }),
    )
    const notes = async (query: string) =>
      (await call('GET', `/notes?find=noted&${query}`)).body as unknown as {
        total: number
        kinds: object
        items: (TagNote & { id: number })[]
      }
    const found = await notes('')
    expect(found.items.map(({ id, kind }) => [id, kind])).toEqual([
      [part!.id, 'inside'],
      [wide!.id, 'overlap'],
    ])
    expect(found.kinds).toEqual({ inside: 1, overlap: 1 })
    expect((await notes('kind=overlap')).total).toBe(1)
    const [{ id, key }] = (await notes('kind=inside')).items as unknown as [{ id: number; key: string }]
    const accept = (reason: string | null) => call('POST', '/notes/accept', { notes: [{ id, key }], reason })
    const { revision } = (await accept('the low word alone')).body as unknown as { revision: number }
    expect((await notes('')).total).toBe(1)
    expect((await notes('accepted=only')).items).toMatchObject([{ id, accepted: 'the low word alone' }])
    expect((await call('GET', '/tags?noted=only&below=noted')).body.total).toBe(1)
    await call('POST', `/revisions/${revision}/take-back`)
    expect((await notes('')).total).toBe(2)
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
    await page.sees(/^(?![\s\S]*is part of)[\s\S]*What it does to the round[\s\S]*2 requests[\s\S]*3 requests/)
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
