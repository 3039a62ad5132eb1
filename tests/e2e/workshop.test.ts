import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { parse } from 'csv-parse/sync'
import { By, Key } from 'selenium-webdriver'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { ImportLine, ImportStatus } from '#shared/imports'
import type { Link } from '#shared/links/link'
import type { EngineStatus } from '#shared/status'
import type { Tag } from '#shared/tags'
import { openBrowser, type Browser } from '../support/browser'
import { startSite, type Site } from '../support/site'
import { until } from '../support/until'

/** Tags by the dozen, as somebody does it who has a spreadsheet beside the plant. */

let site: Site
let page: Browser
let link: Link
const folder = mkdtempSync(join(tmpdir(), 'conduit-tables-'))

beforeAll(async () => {
  site = await startSite()
  const made = (await site.api('/links', {
    name: 'Feeder meters',
    kind: 'modbus-tcp',
    settings: { host: '127.0.0.1', port: site.modbusPort, unit: 11 },
  })) as { body: unknown }
  link = made.body as Link
  const tags = Array.from({ length: 50 }, (_, i) => ({
    path: `berth/1/shore/point_${String(i).padStart(2, '0')}`,
    source: { kind: 'point', linkId: link.id, address: `holding/${40 + 2 * (i % 5)}` },
    type: 'float32',
    scaling: { gain: 0.1, offset: 0 },
    unit: 'kW',
    description: i === 0 ? '=HYPERLINK("x")' : 'Wärme am Netz',
  }))
  await site.api('/tags', { tags })
  page = await openBrowser(site.base, site.cookie)
})
afterAll(async () => {
  await page?.close()
  await site?.stop()
  rmSync(folder, { recursive: true, force: true })
})

/** With its mark, which reading it as text would take away. */
const tableText = async (query = '') => {
  const response = await fetch(`${site.base}/api/tags/table.csv?${query}`, { headers: { cookie: site.cookie } })
  return Buffer.from(await response.arrayBuffer()).toString('utf8')
}
const send = async (text: string | Uint8Array<ArrayBuffer>, query = '') => {
  const headers = { cookie: site.cookie, 'content-type': 'text/csv' }
  const sent = (await (await fetch(`${site.base}/api/imports?${query}`, { method: 'POST', body: text, headers })).json()) as ImportStatus
  return (await site.api(`/imports/${sent.id}?wait=10000`)) as ImportStatus
}
const linesOf = async (id: number, query = '') => (await site.list(`/imports/${id}/lines?${query}`)) as ImportLine[]
const apply = async (id: number, without: string[] = []) => {
  const { body, status } = (await site.api(`/imports/${id}/apply`, { without })) as { body: ImportStatus; status: number }
  return status === 200 ? ((await site.api(`/imports/${id}?wait=10000`)) as ImportStatus) : body
}
const tagsAt = async (find: string) => (await site.list(`/tags?limit=500&find=${find}`)) as Tag[]

/** As a spreadsheet of another country writes it: semicolons, decimal commas, an older encoding. */
const inItsOwnWay = (records: string[][]) =>
  Uint8Array.from(
    Buffer.from(
      records.map((cells) => cells.map((cell) => (/^\d+\.\d+$/.test(cell) ? cell.replace('.', ',') : cell)).join(';')).join('\r\n'),
      'latin1',
    ),
  )

describe('a table, by a spreadsheet', () => {
  it('opens there as it is, and runs nothing', async () => {
    const text = await tableText('columns=path,link,address,type,gain,unit,description')
    expect(text.startsWith('\ufeffpath,link,address,type,gain,unit,description\r\n')).toBe(true)
    const records = parse(text, { bom: true }) as string[][]
    expect(records).toHaveLength(51)
    expect(records[1]).toEqual(['berth/1/shore/point_00', 'Feeder meters', 'holding/40', 'float32', '0.1', 'kW', `'=HYPERLINK("x")`])
  })

  it('comes back with other gains and twenty more rows: seen before it is done, then in force', async () => {
    const records = parse(await tableText('columns=path,link,address,type,gain,unit,description'), { bom: true }) as string[][]
    for (const cells of records.slice(1, 11)) cells[4] = '0.25'
    for (let i = 0; i < 20; i++)
      records.push([`berth/2/shore/point_${i}`, 'Feeder meters', `holding/${40 + 2 * i}`, 'float32', '', 'kW', 'Zählwerk'])
    records[20]![3] = 'real'
    const file = join(folder, 'feeders_rev7.csv')
    writeFileSync(file, inItsOwnWay(records))

    await page.go('/tags/import')
    await (await page.find('input[type=file]')).sendKeys(file)
    await page.sees('windows-1252')
    await page.sees('70 lines')
    await page.sees('Apply 30 of 30')
    await page.sees('“real” is no type')
    await (await page.find('.card.changed')).click()
    await until(
      async () => (await page.driver.findElements(By.xpath('//*[@role="row"][contains(., "point_00")]//s[. = "0.1"]'))).length === 1,
    )
    await (await page.find('.card.added')).click()
    await page.sees('Zählwerk')
    await page.pressBox('Apply berth/2/shore/point_3')
    await page.press('Apply 29 of 30')
    await page.sees('feeders_rev7.csv applied: 29 tags. In force')
    expect((await tagsAt('point_00'))[0]!.scaling).toEqual({ gain: 0.25, offset: 0 })
    expect(await tagsAt('berth/2/')).toHaveLength(19)
    await until(async () => ((await site.api('/status')) as EngineStatus).tags === 69)
  })

  it('is taken back as one', async () => {
    await page.press('Take it back')
    await page.sees('Taken back.')
    expect((await tagsAt('point_00'))[0]!.scaling).toEqual({ gain: 0.1, offset: 0 })
    expect(await tagsAt('berth/2/')).toHaveLength(0)
    await until(async () => ((await site.api('/status')) as EngineStatus).tags === 50)
  })
})

describe('a table, by a program', () => {
  it('removes what it does not name where that is asked for, in that folder only', async () => {
    await site.api('/tags', { tags: [{ path: 'elsewhere/limit', source: { kind: 'memory' }, type: 'int32' }] })
    const all = (await tableText('columns=path')).split('\r\n')
    const { id, counts } = await send(all.slice(0, 49).join('\n'), 'missing=remove&below=berth')
    expect(counts).toMatchObject({ removed: 2, same: 48, added: 0, changed: 0 })
    expect((await linesOf(id, 'what=removed')).map(({ path }) => path)).toEqual(['berth/1/shore/point_48', 'berth/1/shore/point_49'])
    const { state, revision } = await apply(id)
    expect(state).toBe('applied')
    expect(await tagsAt('point_4')).toHaveLength(8)
    expect(await tagsAt('elsewhere')).toHaveLength(1)
    await site.api(`/revisions/${revision}/take-back`, {})
    expect(await tagsAt('point_4')).toHaveLength(10)
  })

  it('swaps paths', async () => {
    const { id } = await send(
      'path,new_path\nberth/1/shore/point_01,berth/1/shore/point_02\nberth/1/shore/point_02,berth/1/shore/point_01\n',
    )
    const [before] = await tagsAt('point_01')
    expect((await apply(id)).state).toBe('applied')
    expect((await tagsAt('point_02'))[0]!.id).toBe(before!.id)
  })

  it('changes nothing where somebody was there first, and is planned anew', async () => {
    const [tag] = await tagsAt('point_05')
    const { id } = await send('path,unit\nberth/1/shore/point_05,MW\nberth/1/shore/point_06,MW\n')
    const { id: _id, revision, ...draft } = tag!
    await site.api(`/tags/${tag!.id}`, { revision, tag: { ...draft, unit: 'W' } }, 'PUT')
    const after = await apply(id)
    expect(after).toMatchObject({ state: 'ready', fault: { code: 'import.stale' }, revision: null })
    expect((await tagsAt('point_06'))[0]!.unit).toBe('kW')
    expect((await linesOf(id, 'find=point_05'))[0]!.before).toEqual({ unit: 'W' })
    expect((await apply(id)).state).toBe('applied')
    expect((await tagsAt('point_05'))[0]!.unit).toBe('MW')
    expect((await site.api(`/imports/${id}/apply`, {})) as object).toMatchObject({ status: 409, body: { fault: { code: 'import.done' } } })
  })

  it.each([
    ['path,unit\nx,"open\n', 'line 2, column 2'],
    ['', 'It is empty.'],
    ['tension;angle\n1;2\n', 'No column'],
    [`path\n${'a\n'.repeat(200_001)}`, 'more than 200,000 lines'],
  ])('that is none is refused with the place, and nothing is changed', async (text, what) => {
    const { state, fault } = await send(text, 'name=bad.csv')
    expect(state).toBe('unreadable')
    expect(fault!.what).toContain(what)
  })

  it('of 200 columns and with a NUL is read as far as it says something', async () => {
    const head = ['path', ...Array.from({ length: 199 }, (_, i) => `other ${i}`)].join(',')
    const { counts, found } = await send(`${head}\nberth/1/shore/point_07\nberth/\u0000,x\n`)
    expect(counts).toMatchObject({ same: 1, refused: 1 })
    expect(found!.columns.filter(({ column }) => column)).toHaveLength(1)
  })

  it('is put away while it is read, and makes room', async () => {
    const big = `path,unit\n${Array.from({ length: 100_000 }, (_, i) => `x/${i},kW`).join('\n')}`
    const headers = { cookie: site.cookie, 'content-type': 'text/csv' }
    const { id } = (await (await fetch(`${site.base}/api/imports`, { method: 'POST', body: big, headers })).json()) as ImportStatus
    const answer = await fetch(`${site.base}/api/imports/${id}`, { method: 'DELETE', headers: { cookie: site.cookie } })
    expect(await answer.json()).toEqual({ revision: null })
    expect(await site.api(`/imports/${id}`)).toMatchObject({ fault: { code: 'import.gone' } })
  })
})

describe('the grid', () => {
  const cellText = async (row: number, column: string) => {
    const heads = await page.driver.findElements(By.css('.head .name'))
    const titles = await Promise.all(heads.map((head) => head.getText()))
    return page.driver.findElement(By.css(`[data-row="${row}"][data-column="${titles.indexOf(column)}"]`)).getText()
  }
  const keys = (...all: string[]) =>
    page.driver
      .actions()
      .sendKeys(...all)
      .perform()
  const held = (key: string, ...all: string[]) =>
    page.driver
      .actions()
      .keyDown(key)
      .sendKeys(...all)
      .keyUp(key)
      .perform()
  const units = async () => (await tagsAt('point_2')).map(({ unit }) => unit)

  it('is written by keys, filled, undone, and saved in one revision', async () => {
    await page.go(`/tags/grid?link=${link.id}&below=berth/1/shore`)
    await page.type('Filter', 'point_2')
    await page.sees('10 tags')
    await page.driver.findElement(By.css('[role=grid]')).click()
    await page.driver.findElement(By.css('[data-row="0"][data-column="8"]')).click()
    await keys('M', 'W', Key.ENTER)
    await until(
      () => cellText(0, 'unit'),
      (text) => text === 'MW',
    )
    await keys(Key.ARROW_UP)
    await held(Key.SHIFT, Key.ARROW_DOWN, Key.ARROW_DOWN)
    await held(Key.CONTROL, 'd')
    await page.sees('Save 3 cells of 3 tags')
    await held(Key.CONTROL, 'z')
    await page.sees('Save 1 cell of 1 tag')
    await held(Key.CONTROL, 'y')
    await page.sees('Save 3 cells of 3 tags')
    await held(Key.CONTROL, 's')
    await page.sees('3 tags changed.')
    expect((await units()).slice(0, 4)).toEqual(['MW', 'MW', 'MW', 'kW'])
  })

  it('takes a block as a spreadsheet gives it, and saves nothing while a cell is wrong', async () => {
    await page.driver.findElement(By.css('[data-row="4"][data-column="6"]')).click()
    const paste = (text: string) =>
      page.driver.executeScript(
        `const data = new DataTransfer(); data.setData('text/plain', arguments[0])
         document.querySelector('[role=grid]').dispatchEvent(new ClipboardEvent('paste', { clipboardData: data, bubbles: true, cancelable: true }))`,
        text,
      )
    await paste('0.5\t10\tW\r\nhalf\t20\tW\r\n')
    await page.sees('1 tag cannot be as typed')
    expect(await cellText(5, 'gain')).toBe('half')
    await held(Key.CONTROL, 's')
    expect((await units())[4]).toBe('kW')
    await page.driver.findElement(By.css('[data-row="5"][data-column="6"]')).click()
    await keys('2', Key.ENTER)
    await held(Key.CONTROL, 's')
    await page.sees('2 tags changed.')
    expect((await tagsAt('point_2')).slice(4, 6).map(({ scaling, unit }) => ({ ...scaling, unit }))).toEqual([
      { gain: 0.5, offset: 10, unit: 'W' },
      { gain: 2, offset: 20, unit: 'W' },
    ])
  })

  it('tells where somebody else changed the same cell meanwhile', async () => {
    await page.driver.findElement(By.css('[data-row="7"][data-column="8"]')).click()
    await keys('A', Key.ENTER)
    await page.sees('Save 1 cell of 1 tag')
    const [tag] = await tagsAt('point_27')
    await site.api('/tags/cells', { edits: [{ id: tag!.id, revision: tag!.revision, cells: { unit: 'V' } }] }, 'PUT')
    await keys(Key.ARROW_UP)
    await page.sees('Somebody changed it to “V” meanwhile')
    await held(Key.CONTROL, 'z')
    await page.sees('Nothing to save')
  })

  it('refuses cells as a whole, with the place of each that is wrong', async () => {
    const [a, b] = await tagsAt('point_3')
    const edits = [
      { id: a!.id, revision: a!.revision, cells: { unit: 'X' } },
      { id: b!.id, revision: b!.revision, cells: { type: 'int17', nothing: '1' } },
    ]
    const refused = (await site.api('/tags/cells', { edits }, 'PUT')) as { status: number; body: { fields: { path: string }[] } }
    expect(refused.status).toBe(422)
    expect(refused.body.fields.map(({ path }) => path)).toEqual(['edits.1.cells.type', 'edits.1.cells.nothing'])
    expect((await tagsAt('point_30'))[0]!.unit).toBe('kW')
    const taken = { edits: [{ id: a!.id, revision: a!.revision, cells: { path: b!.path } }] }
    expect(await site.api('/tags/cells', taken, 'PUT')).toMatchObject({ status: 409, body: { fault: { code: 'entry.taken' } } })
    const stale = { edits: [{ id: a!.id, revision: 1, cells: { unit: 'X' } }] }
    expect(await site.api('/tags/cells', stale, 'PUT')).toMatchObject({ status: 409, body: { fault: { code: 'entry.edited' } } })
    const gone = { edits: [{ id: 999_999, revision: 1, cells: { unit: 'X' } }] }
    expect(await site.api('/tags/cells', gone, 'PUT')).toMatchObject({ status: 404, body: { fault: { code: 'entry.gone' } } })
  })
})

describe('scaling', () => {
  it('from range to range is set on the sheet, with its curve, and makes the value', async () => {
    const [tag] = await tagsAt('point_11')
    await page.go(`/tags/${tag!.id}`)
    await page.choose('Scaled', 'range to range')
    await page.type('Raw to', '0')
    await page.press('Save changes')
    await page.sees('Both ends of the raw range are the same.')
    await page.type('Raw to', '4000')
    await page.type('Is to', '100')
    await page.choose('Beyond the ends', 'stop at both')
    await page.find('svg .line')
    await page.press('Save changes')
    await page.sees('point_11 saved.')
    await page.go(`/tags?tag=${tag!.id}`)
    await page.sees('0…4000 → 0…100, stops at both ends')
    expect((await tagsAt('point_11'))[0]!.scaling).toMatchObject({ kind: 'ranges', raw: { low: 0, high: 4000 }, clamp: 'both' })
    await page.go(`/tags/${tag!.id}`)
    await page.choose('Scaled', 'as it comes')
    await page.press('Save changes')
    await page.sees('point_11 saved.')
    expect((await tagsAt('point_11'))[0]!.scaling).toBeNull()
  })
})

describe('folders', () => {
  it('are gone into by chips, and renamed with the rights and short names that go by them', async () => {
    const settings = {
      doors: [{ port: site.opcuaPort }],
      shows: [
        { folder: 'berth/1', may: 'read' },
        { folder: 'berth/10', may: 'nothing' },
      ],
      anonymous: [{ folder: 'berth/1/shore', may: 'read' }],
      users: [{ name: 'panel', key: { kind: 'password', password: { plain: 'a secret' } }, rules: [{ folder: 'berth/1', may: 'read' }] }],
      shortNames: { on: true, own: [{ path: 'berth/1/shore/point_01', name: 'P1' }] },
    }
    const { body: outlet } = (await site.api('/outlets', { name: 'By folder', kind: 'opcua-server', settings })) as { body: { id: number } }
    await page.go('/tags')
    await page.pressContaining('berth')
    await until(
      () => page.driver.getCurrentUrl(),
      (url) => url.endsWith('below=berth'),
    )
    await page.go('/tags?below=berth/1')
    await page.press('Rename or move')
    await page.type('New path of the folder', 'berth/1/x')
    await page.sees('A folder does not go into itself.')
    await page.type('New path of the folder', 'quay/west')
    await page.press('Move')
    await page.sees('50 tags moved from berth/1 to quay/west, and 1 outlet that named it.')
    expect((await tagsAt('point_01')).map(({ path }) => path)).toEqual(['quay/west/shore/point_01'])
    expect(await site.api(`/outlets/${outlet.id}`)).toMatchObject({
      settings: {
        shows: [{ folder: 'quay/west' }, { folder: 'berth/10' }],
        anonymous: [{ folder: 'quay/west/shore' }],
        users: [{ rules: [{ folder: 'quay/west' }] }],
        shortNames: { own: [{ path: 'quay/west/shore/point_01' }] },
      },
    })
    await page.press('Take it back')
    await until(
      () => tagsAt('berth/1'),
      (tags) => tags.length === 50,
    )
    const move = (from: string, to: string) => site.api('/tags/move', { from, to })
    expect(await move('berth/9', 'berth/8')).toMatchObject({ status: 422 })
    await site.api('/tags', { tags: [{ path: 'other/shore/point_01', source: { kind: 'memory' }, type: 'int16' }] })
    expect(await move('other', 'berth/1')).toMatchObject({ status: 409, body: { fault: { code: 'entry.taken' } } })
    expect(await move('other/shore/point_01', 'other/renamed')).toMatchObject({ status: 200, body: { tags: 1, others: 0 } })
  })

  it('and tags are narrowed by quality, note and access', async () => {
    const named = async (query: string) => (await site.list(`/tags?limit=500&${query}`)) as Tag[]
    await until(
      () => named('quality=bad&find=renamed'),
      (tags) => tags.length === 1,
    )
    expect(await named('quality=good&find=renamed')).toEqual([])
    // ten names for each of five values, none of them laid across another
    const overlaps = async () => ((await site.list('/notes?kind=overlap&find=point_')) as { path: string }[]).map(({ path }) => path)
    expect(await overlaps()).toEqual([])
    const [tag] = await tagsAt('point_00')
    // the second word of one value is the first of another
    await site.api('/tags/cells', { edits: [{ id: tag!.id, revision: tag!.revision, cells: { address: 'holding/41' } }] }, 'PUT')
    const noted = (await named(`noted=only&link=${link.id}`)).map(({ path }) => path)
    expect(noted).toContain(tag!.path)
    expect(await overlaps()).toContain(tag!.path)
    expect(await named('noted=only&source=memory')).toEqual([])
    expect((await named('access=readwrite')).length).toBe(0)
    expect(await site.list('/tags/inside?below=berth/1&words=point_1')).toEqual([{ folder: 'berth/1/shore', name: 'shore', tags: 10 }])
    await page.go('/tags?noted=only')
    await page.sees('with a note ✕')
    await page.sees(`${noted.length} tags match`)
  })
})
