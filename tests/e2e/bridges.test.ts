import { mkdirSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import pg from 'pg'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { copiedText } from '#core/bridges/copied'
import type { Bridge } from '#shared/bridges/bridge'
import { openBrowser, type Browser } from '../support/browser'
import { startCluster } from '../support/cluster'
import { describedCalls } from '../support/describedCalls'
import { startBroker } from '../support/mqttBroker'
import { startSite, type Site } from '../support/site'
import { until } from '../support/until'

/** Bridges, from an empty site: to a file, to a table that the sheet creates, to a topic and back, and to a register. */

let site: Site
let page: Browser
let broker: Awaited<ReturnType<typeof startBroker>>
let book: Awaited<ReturnType<typeof startCluster>>
let database: pg.Client
let call: Awaited<ReturnType<typeof describedCalls>>['call']
let sending: NodeJS.Timeout

beforeAll(async () => {
  ;[broker, book, site] = await Promise.all([startBroker(), startCluster(), startSite()])
  let people = 0
  sending = setInterval(() => void broker.publish('quay/counter/1', JSON.stringify({ people: ++people, gate: 'north' })), 200)
  database = new pg.Client({ connectionString: book.url })
  await database.connect()
  ;({ call } = await describedCalls(site))
  page = await openBrowser(site.base, site.cookie)
})
afterAll(async () => {
  clearInterval(sending)
  await page?.close()
  await database?.end()
  await site?.stop()
  await Promise.all([broker?.stop(), book?.stop()])
})

const made = async (path: string, body: object) => {
  const { status, body: saved } = await call('POST', path, body)
  expect(status).toBe(200)
  return saved as { id: number }
}
const memory = (path: string, start: number) => ({
  path,
  type: 'float64',
  access: 'readwrite',
  source: { kind: 'memory', start: String(start) },
})
const bridges = async () => (await call('GET', '/bridges')).body.items as { id: number; name: string; revision: number }[]
const bridgeNamed = async (name: string) => (await bridges()).find((bridge) => bridge.name === name)! as unknown as Bridge
const idOf = async (name: string) => (await bridges()).find((bridge) => bridge.name === name)!.id
const tagId = async (path: string) => ((await call('GET', `/tags?find=${path}`)).body.items as { id: number }[])[0]!.id

describe('a bridge', () => {
  it('is a sentence: made part by part, it writes values to a file as they change', async () => {
    await page.go('/links/new?kind=files')
    await page.type('Folder', 'meters')
    await page.sees('written and removed again')
    await page.press('Save link')
    await page.sees(/Files in .*meters/)
    await made('/tags', { tags: [memory('berth/1/power', 1480), memory('berth/1/current', 80)] })
    await page.go('/bridges')
    await page.sees('Nothing is sent on yet')
    await page.press('Make a bridge')
    await page.type('Name', 'Meters to a file')
    await page.type('Tag, or a pattern of paths', 'berth/*/power')
    await page.type('By more than', '0.1')
    await page.press('and take …')
    await page.type('Tag', 'berth/1/current')
    await page.press('the tag …')
    await page.choose('Send to', 'a CSV file')
    await page.type('File', 'meters.csv')
    await page.type('Column 1', 'at')
    await page.type('Comes from 1', 'time')
    await page.press('+ another field')
    await page.type('Column 2', 'kw')
    await page.type('Comes from 2', 'value')
    await page.press('+ another field')
    await page.type('Column 3', 'amps')
    await page.type('Comes from 3', 'round(current, 1)')
    await page.sees(/When\s*berth\/\*\/power moves by more than 0\.1/)
    await page.sees(/at,kw,amps\s*\d{4}-.*,1480,80/)
    await page.press('Save bridge')
    await page.sees('Waiting for what sets it off')
    await call('PUT', `/tags/${await tagId('berth/1/power')}/value`, { value: 1502.5 })
    await page.sees(/berth\/1\/power = 1502\.5/)
    const file = join(site.folder, 'files', 'meters', 'meters.csv')
    await until(() => readFileSync(file, 'utf8').includes('1502.5'))
    expect(readFileSync(file, 'utf8')).toMatch(/^at,kw,amps\r\n\d{4}-\d\d-\d\dT[\d:.]+Z,1502\.5,80\r\n$/)
  })

  it('says at each part what is wrong with it, and saves nothing', async () => {
    await page.go('/bridges/new')
    await page.type('Name', 'Half a thought')
    await page.type('Tag, or a pattern of paths', 'berth/**/power')
    await page.leave('Tag, or a pattern of paths')
    await page.sees('so it comes last')
    await page.type('Comes from 1', 'valeu * 2')
    await page.leave('Comes from 1')
    await page.sees('Nothing here is called “valeu”')
    await page.press('Save bridge')
    await page.sees('Nothing saved')
    expect((await bridges()).map(({ name }) => name)).toEqual(['Meters to a file'])
    await page.press('Discard')
    await page.press('Discard and leave')
  })

  it('puts messages into a table that its sheet creates, in a database of others', async () => {
    const { hostname, port, username, password } = new URL(book.url)
    await page.go('/links/new?kind=sql')
    await page.type('Server', hostname)
    await page.type('Port', port)
    await page.type('Database', 'postgres')
    await page.type('Account', username)
    await page.type('Password', 'wrong')
    await page.sees(/28P01[\s\S]*Check name and password|name or password is wrong/)
    await page.type('Password', decodeURIComponent(password))
    await page.sees('none yet; a bridge can create one')
    await page.press('Save link')
    await page.sees('Connected to PostgreSQL')
    await made('/links', { name: 'Quay', kind: 'mqtt', settings: { host: '127.0.0.1', port: broker.port, version: '3.1.1' } })
    await page.go('/bridges/new')
    await page.type('Name', 'Passengers to rows')
    await page.choose('It runs when', 'a message comes over a link')
    await page.type('Topic or filter', 'quay/counter/+')
    await page.press('and take …')
    await page.type('Where in the message (JSONPath)', '$.people')
    await page.press('the tag …')
    await page.choose('Send to', 'a table')
    await page.type('Table', 'passengers')
    await page.type('Column 1', 'at')
    await page.type('Comes from 1', 'time')
    await page.press('+ another field')
    await page.type('Column 2', 'counter')
    await page.type('Comes from 2', 'part3')
    await page.press('+ another field')
    await page.type('Column 3', 'people')
    await page.type('Comes from 3', 'people')
    await page.press('Create the table …')
    await page.sees(/create table "passengers" \(\s*"at" timestamptz,\s*"counter" text,\s*"people" double precision/)
    await page.sees('create index')
    await page.press('Create it')
    await page.sees('Table passengers created.')
    await page.press('Save bridge')
    await page.sees(/quay\/counter\/1[\s\S]*sent[\s\S]*people \d+/)
    const { rows } = await database.query<{ counter: string; people: number }>('select counter, people from passengers order by at')
    expect(rows.length).toBeGreaterThan(0)
    expect(rows[0]!.counter).toBe('1')
  })

  it('keeps what it cannot deliver, shows how much, and delivers all of it in order', async () => {
    const id = await idOf('Passengers to rows')
    await database.query('alter table passengers rename to set_aside')
    await page.go(`/bridges/${id}`)
    await page.sees('There is no table passengers')
    await page.sees(/[2-9] records kept/)
    await page.sees(/holding \d+/)
    await page.go('/')
    await page.sees(/Passengers to rows\s*Bridge[\s\S]*There is no table passengers[\s\S]*records kept/)
    await page.go(`/bridges/${id}`)
    await database.query('alter table set_aside rename to passengers')
    await page.sees(/\d+ runs/)
    const people = async () =>
      (await database.query<{ people: number }>('select people from passengers order by ctid')).rows.map((row) => row.people)
    const before = await people()
    await until(async () => (await people()).length > before.length + 2)
    const all = await people()
    const gaps = all.slice(1).filter((count, i) => count !== all[i]! + 1)
    // one gap may be there from before the bridge was saved, none after
    expect(gaps).toEqual([])
  })

  it('lays aside what the receiver refuses, and sends it again once that is set right', async () => {
    const id = await idOf('Passengers to rows')
    await database.query('alter table passengers add constraint few check (people < 0) not valid')
    await page.go(`/bridges/${id}`)
    await page.sees(/Laid aside: [2-9]\d* records/)
    await page.sees('a check of the table says no (SQLSTATE 23514)')
    await database.query('alter table passengers drop constraint few')
    await page.pressContaining('again')
    await page.sees(/records? sent again\./)
    // some were refused after the list was looked up; those come to the page by themselves
    await until(async () => {
      if (((await call('GET', `/bridges/${id}/refused`)).body.total as number) === 0) return true
      await page.pressIfThere('Send all again')
      return false
    })
    await until(async () => !(await page.text()).includes('Laid aside'))
  })

  it('lets a refused record be set right by hand', async () => {
    const id = await idOf('Passengers to rows')
    await database.query('alter table passengers add constraint few check (people < 0) not valid')
    await page.go(`/bridges/${id}`)
    await page.sees(/Laid aside: [1-9]\d* record/)
    await page.press('Set right …')
    await page.type('people', '-41')
    await page.press('Send it so')
    await page.sees('The record was set right and sent.')
    await until(async () => (await database.query('select from passengers where people = -41')).rowCount === 1)
    await database.query('alter table passengers drop constraint few')
    await database.query('delete from passengers where people < 0')
    const keys = async () => ((await call('GET', `/bridges/${id}/refused`)).body.items as { key: string }[]).map(({ key }) => key)
    await until(async () => {
      const left = await keys()
      if (left.length > 0) await call('POST', `/bridges/${id}/refused`, { keys: left, then: 'drop' })
      return left.length === 0
    })
  })

  it('is tried with a message of one’s own, and nothing of it leaves', async () => {
    await page.go(`/bridges/${await idOf('Passengers to rows')}`)
    await page.press('Try it with a message of your own …')
    await page.type('Topic', 'quay/counter/77')
    await page.type('Payload', '{"people": "many"}')
    await page.sees('many is no double precision')
    await page.type('Payload', '{"people": 4711}')
    await page.sees(/counter 77, people 4711/)
    expect((await database.query("select from passengers where counter = '77'")).rowCount).toBe(0)
  })

  it('takes the rows of a file, looks up what they are called, and asks a database for the rest', async () => {
    await database.query("create table ship (gate text primary key, name text); insert into ship values ('north', 'Isle Ferry')")
    await page.go('/bridges/new')
    await page.type('Name', 'Counts of the day')
    await page.choose('It runs when', 'a file or line comes')
    await page.type('Files', 'days/*.csv')
    await page.choose('Take', 'each new file as a whole')
    await page.choose('When it begins', 'what is there already, too')
    await page.press('and take …')
    await page.type('Where in the message (JSONPath)', '$')
    await page.type('Under the name', 'line')
    await page.turn('Each element of the list makes a record')
    await page.press('and take …')
    await page.choose('Take', 'rows of a database')
    await page.type('Statement', 'delete from ship')
    await page.leave('Statement')
    await page.sees('It asks for rows: it begins with select or with.')
    await page.type('Statement', 'select name from ship where gate = {"north"}')
    await page.type('Under the name', 'ship')
    await page.press('+ a look-up table')
    await page.type('Is 1', 'N')
    await page.type('Becomes 1', 'north')
    await page.press('the tag …')
    await page.choose('Send to', 'a CSV file')
    await page.type('File', 'days.csv')
    await page.type('Column 1', 'gate')
    await page.type('Comes from 1', 'table1(line_gate)')
    await page.press('+ another field')
    await page.type('Column 2', 'people')
    await page.type('Comes from 2', 'line_people')
    await page.press('+ another field')
    await page.type('Column 3', 'ship')
    await page.type('Comes from 3', 'ship')
    await page.press('Save bridge')
    await page.sees('Waiting for what sets it off')
    const folder = join(site.folder, 'files', 'meters')
    mkdirSync(join(folder, 'days'), { recursive: true })
    writeFileSync(join(folder, 'days', 'monday.csv'), 'gate,people\nN,41\nN,7\n')
    await page.sees(/days\/monday\.csv[\s\S]*sent/)
    expect(readFileSync(join(folder, 'days.csv'), 'utf8')).toBe('gate,people,ship\r\nnorth,41,Isle Ferry\r\nnorth,7,Isle Ferry\r\n')
    // whoever may only look tries no statement of their own
    const { id, revision: _, ...draft } = await bridgeNamed('Counts of the day')
    const { token } = (await call('POST', '/tokens', { name: 'Looker', role: 'look', days: 1 })).body as unknown as { token: string }
    const tried = async (take: object[]) => {
      const body = { bridge: { ...draft, take }, bridgeId: id, message: null }
      return (await call('POST', '/bridges/preview', body, { authorization: `Bearer ${token}` })).status
    }
    expect(await tried(draft.take)).toBe(200)
    expect(await tried(draft.take.map((one) => (one.kind === 'query' ? { ...one, statement: 'select 1' } : one)))).toBe(403)
  })

  it('is copied and pasted, with what does not fit named', async () => {
    const links = (await call('GET', '/links')).body.items as { id: number; name: string; kind: string }[]
    const { id: _id, revision: _revision, ...draft } = await bridgeNamed('Counts of the day')
    const copied = copiedText([draft], (_, id) => links.find((link) => link.id === id)!.name)
    const database = links.find(({ kind }) => kind === 'sql')!.name
    await page.go('/bridges')
    await page.press('Paste …')
    await page.type('What was copied from a bridge, or the bridges of a site’s text', copied.replaceAll(database, 'Elsewhere'))
    await page.sees('There is no link “Elsewhere” here.')
    await page.press('Open as a sheet')
    await page.sees(/rows of|select name from ship/)
    expect(await page.valueOf('Name')).toBe('Counts of the day (2)')
    await page.press('Save bridge')
    await page.sees('Nothing saved')
    await page.press('Discard')
    await page.press('Discard and leave')
    await page.sees('New bridge')
  })

  it('is stopped and started by itself', async () => {
    const id = await idOf('Meters to a file')
    await page.go(`/bridges/${id}`)
    await page.press('Stop')
    await page.sees('Switched off')
    const other = await idOf('Passengers to rows')
    const runs = async () =>
      ((await call('GET', '/status')).body as unknown as { bridges: { id: number; runs: number }[] }).bridges.find(
        (one) => one.id === other,
      )!.runs
    const before = await runs()
    await until(async () => (await runs()) > before)
    await page.press('Start')
    await page.sees('Waiting for what sets it off')
  })

  it('keeps a link that it goes over from being removed, and is taken back once removed itself', async () => {
    const links = (await call('GET', '/links')).body.items as { id: number; name: string }[]
    const quay = links.find(({ name }) => name === 'Quay')!
    const { status, body } = await call('DELETE', `/links/${quay.id}`)
    expect(status).toBe(409)
    expect(body.fault).toMatchObject({ code: 'entry.bridged', what: '“Quay” is used by “Passengers to rows”.' })
    await page.go(`/bridges/${await idOf('Passengers to rows')}`)
    await page.press('Remove…')
    await page.press('Remove bridge')
    await page.sees('Bridge “Passengers to rows” removed.')
    await page.press('Take it back')
    await until(async () => (await bridges()).some(({ name }) => name === 'Passengers to rows'))
  })
})
