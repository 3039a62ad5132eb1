import pg from 'pg'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { openBrowser, type Browser } from '../support/browser'
import { describedCalls } from '../support/describedCalls'
import { startSite, type Site } from '../support/site'
import { until } from '../support/until'

/** Rows of a database, from a link that has none to tags of each kind, as somebody makes them in the browser. */

let site: Site
let page: Browser
let book: pg.Client
let linkId: number
let call: Awaited<ReturnType<typeof describedCalls>>['call']

beforeAll(async () => {
  site = await startSite()
  ;({ call } = await describedCalls(site))
  page = await openBrowser(site.base, site.cookie)
  book = new pg.Client({ connectionString: site.databaseUrl })
  await book.connect()
  await book.query(`
    create schema book;
    create table book.profile (voyage text primary key, ship text, volts integer, limit_kw numeric(12,4), changed_at timestamptz not null default now());
    insert into book.profile (voyage, ship, volts, limit_kw) values
      ('HS-2217', 'Sound Runner', 11000, 1500), ('HS-2218', 'Harrow Maid', 690, 950), ('HS-2219', 'Isle Ferry', 440, null);
    create function book.plan(voyage text, hours integer) returns table (ship text, kwh integer) language sql as $$
      select p.ship, (p.limit_kw * hours)::integer from book.profile p where p.voyage = plan.voyage $$`)
  const { hostname, port, username, password, pathname } = new URL(site.databaseUrl)
  const settings = {
    host: hostname,
    port: Number(port),
    database: pathname.slice(1),
    user: username,
    password: { plain: decodeURIComponent(password) },
  }
  linkId = ((await call('POST', '/links', { name: 'Vessel call book', kind: 'sql', settings })).body as unknown as { id: number }).id
  await until(async () => (await call('GET', `/links/${linkId}/tables`)).status === 200)
})
afterAll(async () => {
  await page?.close()
  await book?.end()
  await site?.stop()
})

const tagAt = async (path: string) =>
  ((await call('GET', `/tags?find=${encodeURIComponent(path)}`)).body.items as { id: number; path: string }[]).find(
    (tag) => tag.path === path,
  )
const write = async (path: string, value: unknown) => call('PUT', `/tags/${(await tagAt(path))!.id}/value`, { value })

describe('a row cursor', () => {
  const folder = 'vessel_call_book/profile_of_the_ship'

  it('begins at the link, and is seen with real rows before it is saved', async () => {
    await page.go(`/links/${linkId}`)
    await page.sees('None of its rows are tags yet.')
    await page.press('Make tags of rows')
    await page.sees('Rows as tags: in which way?')
    await page.pressContaining('Row cursor')
    await page.sees('Its rows and tags stand here as soon as it says which.')
    await page.type('Name', 'Profile of the ship')
    await page.type('Table or view', 'book.profile')
    // the key of the table tells rows apart
    await page.sees(/in the order of\s*voyage/)
    await page.sees(/Rows now 3 rows[\s\S]*HS-2217[\s\S]*Sound Runner/)
    await page.sees(/Becomes 18 tags below vessel_call_book\/profile_of_the_ship/)
    await page.sees('numeric(12,4) is passed on as float64: exact here')
    await page.press('voyage')
    await page.type('Column that tells rows apart', 'wharf')
    await page.sees(/did not take a statement[\s\S]*wharf/)
    await page.type('Column that tells rows apart', 'voyage')
    await page.sees(/Rows now 3 rows/)
    await page.press('Save record set')
    await page.sees(/Profile of the ship[\s\S]*row 1 of 3[\s\S]*set 1 whole at/)
    await page.sees(/ship\s*string\s*Sound Runner\s*Good\s*read/)
  })

  it('shows the row pointed at as a consumer moves it', async () => {
    await write(`${folder}/move/next`, true)
    await page.sees(/row 2 of 3[\s\S]*ship\s*string\s*Harrow Maid\s*Good/)
    const marked = () => page.driver.executeScript<string>(`return document.querySelector('tr.at')?.innerText ?? ''`)
    await until(async () => (await marked()).includes('HS-2218'))
    expect((await write(`${folder}/move/key`, 'HS-9999')).body).toMatchObject({ fault: { code: 'records.no-row' } })
    await write(`${folder}/move/last`, true)
    await page.sees(/limit_kw\s*float64[\s\S]*Bad · no data there/)
  })

  it('stands at its link, is found by its name, and is switched off and on', async () => {
    await page.go(`/links/${linkId}`)
    await page.sees(/Record sets\s*Profile of the ship[\s\S]*row 3 of 3/)
    await page.press('Profile of the ship')
    await page.press('Stop')
    await page.sees('Switched off')
    await page.sees(/Bad · switched off/)
    await page.press('Start')
    await page.sees('row 3 of 3')
  })

  it('is refused a folder of another set, and asks before what was typed is lost', async () => {
    await page.go(`/records/new?link=${linkId}&kind=snapshot`)
    await page.type('Name', 'All')
    await page.type('Table or view', 'book.profile')
    await page.press('vessel_call_book/all')
    await page.type('Folder of its tags', `${folder}/all`)
    await page.press('Save record set')
    await page.sees('The tags of “Profile of the ship” stand there: each set has a folder of its own.')
    await page.press('Discard')
    await page.press('Discard and leave')
  })
})

describe('a procedure', () => {
  it('is tried before it is saved, which tells what comes of it', async () => {
    await page.go(`/records/new?link=${linkId}&kind=procedure`)
    await page.type('Name', 'Plan')
    await page.type('Procedure or function', 'book.nowhere')
    await page.sees('There is no procedure and no function book.nowhere that we may see.')
    await page.type('Procedure or function', 'book.plan')
    await page.type('voyage, text', 'HS-2217')
    await page.type('hours, integer', 'six')
    await page.press('Run it once')
    await page.sees(/Parameter hours has nothing: “six” is no int32/)
    await page.type('hours, integer', '6')
    await page.press('Run it once')
    await page.sees(/Rows now 1 row\s*ship\s*kwh\s*Sound Runner\s*9000/)
    await page.press('nothing')
    await page.sees('hours, integer')
    await page.press('Save record set')
    await page.sees(/Plan[\s\S]*waiting for the first run/)
    await until(async () => (await tagAt('vessel_call_book/plan/run')) !== undefined)
    await write('vessel_call_book/plan/with/voyage', 'HS-2218')
    await write('vessel_call_book/plan/with/hours', 2)
    expect((await write('vessel_call_book/plan/run', true)).status).toBe(200)
    await page.sees(/kwh\s*int32\s*1900\s*Good/)
  })
})

describe('a statement', () => {
  it('takes values of tags, and says what it misses', async () => {
    await call('POST', '/tags', {
      tags: [{ path: 'berth/voyage', type: 'string', access: 'readwrite', source: { kind: 'memory', start: 'HS-2217' } }],
    })
    await page.go(`/records/new?link=${linkId}&kind=query`)
    await page.type('Name', 'Ship at the berth')
    await page.type('Statement', 'delete from book.profile')
    await page.leave('Statement')
    await page.sees('It asks for rows: it begins with select or with.')
    await page.type('Statement', 'select ship, volts from book.profile where voyage = {voyage}')
    await page.sees('Nothing here is called “voyage”')
    await page.press('nothing of tags')
    await page.press('Add a parameter')
    await page.type('Name', 'voyage')
    await page.sees('Save record set')
  })
})

describe('a snapshot', () => {
  it('makes tags of the rows that come, and goes with all of its tags', async () => {
    const how = {
      kind: 'snapshot',
      from: { kind: 'table', schema: 'book', table: 'profile' },
      key: 'voyage',
      columns: ['ship'],
      again: { every: 500 },
    }
    const made = await call('POST', '/record-sets', { name: 'Ships', linkId, folder: 'office/ships', how })
    await page.go(`/records/${(made.body as unknown as { id: number }).id}`)
    await page.sees(/Its 9 tags below office\/ships/)
    await book.query("insert into book.profile (voyage, ship) values ('HS-2220', 'Little Auk')")
    await page.sees(/Its 10 tags below office\/ships[\s\S]*ship\/HS-2220\s*string\s*Little Auk/)
    await page.press('Remove…')
    await page.press('Remove it and 10 tags')
    await until(async () => (await call('GET', '/tags?below=office')).body.total === 0)
  })
})
