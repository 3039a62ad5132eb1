import { execFile } from 'node:child_process'
import { promisify } from 'node:util'
import pg from 'pg'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { freePort } from '../../launcher/ports.mjs'
import { openBrowser, type Browser } from '../support/browser'
import { startCluster } from '../support/cluster'
import { startSite, type Site } from '../support/site'
import { until } from '../support/until'
import { json, startWebApi } from '../support/webApi'

/** The offices: from an empty site, a web API of others to a table, and an endpoint of one's own that curl is answered at. */

let site: Site
let page: Browser
let api: Awaited<ReturnType<typeof startWebApi>>
let book: Awaited<ReturnType<typeof startCluster>>
let database: pg.Client
let presses = 0

const described = (base: string) => ({
  openapi: '3.1.0',
  info: { title: 'Tides of the Sound', version: '2' },
  servers: [{ url: `${base}/v2` }],
  paths: {
    '/tides/{place}': {
      get: {
        operationId: 'tide',
        parameters: [{ name: 'place', in: 'path', required: true, schema: { type: 'string' } }],
        responses: { 200: { description: 'Now.', content: { 'application/json': { example: { now: { metres: 1.5, rising: true } } } } } },
      },
    },
  },
})

beforeAll(async () => {
  api = await startWebApi(({ url }, response) =>
    url === '/openapi.json' ? json(response, described(api.base)) : json(response, { now: { metres: 2.25, rising: false } }),
  )
  ;[book, site] = await Promise.all([startCluster(), startSite()])
  database = new pg.Client({ connectionString: book.url })
  await database.connect()
  page = await openBrowser(site.base, site.cookie)
})
afterAll(async () => {
  await page?.close()
  await database?.end()
  await site?.stop()
  await Promise.all([api?.stop(), book?.stop()])
})

const press = async (label: string) => {
  presses++
  await page.press(label)
}
/** Opening the list and taking one of it. */
const choose = async (label: string, option: string) => {
  presses += 2
  await page.choose(label, option)
}

interface Outlets {
  items: { settings: { doors: { port: number }[]; users: { token: object }[] } }[]
}

describe('a web API of others', () => {
  it('comes into a table in under 20 presses, by what it says of itself', async () => {
    await page.go('/links/new?kind=http')
    await page.type('Name', 'Tides')
    await press('Read them from its description …')
    await page.type('Address of its description', `${api.base}/openapi.json`)
    await press('Read it')
    await page.sees(/Tides of the Sound 2[\s\S]*GET \/tides\/\{place\}/)
    await press('Take 1 operation')
    expect(await page.valueOf('Base address')).toBe(`${api.base}/v2`)
    await page.sees(/Protection[\s\S]*nothing is encrypted/)
    await press('Save link')
    await page.sees('127.0.0.1 is there, no tags yet')

    const { hostname, port, username, password } = new URL(book.url)
    await page.go('/links/new?kind=sql')
    await page.type('Name', 'Harbour book')
    await page.type('Server', hostname)
    await page.type('Port', port)
    await page.type('Database', 'postgres')
    await page.type('Account', username)
    await page.type('Password', decodeURIComponent(password))
    await page.sees('none yet; a bridge can create one')
    await press('Save link')
    await page.sees('Connected to PostgreSQL')

    await page.go('/bridges/new')
    await page.type('Name', 'Tides to rows')
    await choose('It runs when', 'every so often')
    await press('and take …')
    await choose('Take', 'an answer of a web API')
    await page.type('place comes from', '"north"')
    await press('metres1.5')
    expect(await page.valueOf('Inside the answer (JSONPath)')).toBe('$.now.metres')
    await press('the tag …')
    await choose('Send to', 'a table')
    await page.type('Table', 'tides')
    await page.type('Column 1', 'metres')
    await page.type('Comes from 1', 'metres')
    await page.sees('metres 2.25')
    await press('Create the table …')
    await page.sees(/"metres" double precision/)
    await press('Create it')
    await page.sees('Table tides created.')
    await press('Save bridge')
    await until(async () => (await database.query('select from tides where metres = 2.25')).rowCount! > 1)
    expect(presses).toBeLessThan(20)
    expect(api.asked.filter(({ url }) => url !== '/openapi.json').every(({ url }) => url === '/v2/tides/north' || url === '/v2')).toBe(true)
  })
})

describe('an endpoint of one’s own', () => {
  it('is made on the sheet, and curl is answered from the database', async () => {
    await database.query("create table call (voyage text, berth integer, kwh double precision); insert into call values ('HS-1', 2, 71.5)")
    const port = await freePort()
    await page.go('/outlets/new?kind=http-server')
    await page.type('Port', String(port))
    await page.press('Add an endpoint')
    await page.type('Path', '/tags/{berth}')
    await page.leave('Path')
    await page.sees('/tags is the outlet’s own')
    await page.type('Path', '/berths/{berth}/calls/{voyage}')
    await page.pressContaining('berth')
    await page.choose('Type', 'whole number')
    await page.type('Statement', 'delete from call')
    await page.leave('Statement')
    await page.sees('It asks for rows: it begins with select or with.')
    await page.type('Statement', 'select kwh from call where voyage = {voyage} and berth = {berth}')
    await page.type('Answer, by example', '{"voyage": "{voyage}", "energy_kwh": "{kwh}"}')
    await page.press('Try it …')
    await page.type('berth', '2')
    await page.type('voyage', 'HS-9')
    await page.press('Ask it once')
    await page.sees(/GET \/berths\/2\/calls\/HS-9[\s\S]*404 not found/)
    await page.type('voyage', 'HS-1')
    await page.press('Ask it once')
    await page.sees(/200 OK[\s\S]*"energy_kwh": 71\.5/)
    await page.press('Open the outlet')
    await page.sees(/Endpoints[\s\S]*GET \/berths\/\{berth\}\/calls\/\{voyage\}[\s\S]*not asked yet/)
    const curl = async (path: string) =>
      (
        await promisify(execFile)('curl', [
          '-s',
          '--retry',
          '20',
          '--retry-connrefused',
          '--retry-delay',
          '1',
          `http://127.0.0.1:${port}${path}`,
        ])
      ).stdout
    expect(await curl('/berths/2/calls/HS-1')).toBe('{"voyage":"HS-1","energy_kwh":71.5}')
    expect(JSON.parse(await curl('/berths/2/calls/none'))).toMatchObject({ status: 404, title: 'There is nothing' })
    expect(JSON.parse(await curl('/berths/two/calls/HS-1'))).toMatchObject({ status: 400 })
    await page.sees(/3\s*2\s*400 in/)
    await page.sees(/Refused[\s\S]*berth \(path\): it is no whole number/)
  })
  it('lets in a program by a token that is made and shown once', async () => {
    await page.press('Settings')
    await page.turn('By name and token')
    await page.turn('Without a name')
    await page.press('Add a name')
    await page.type('Name 1', 'Harbour office')
    await page.press('Make a token')
    await page.sees(/Bearer Harbour%20office\.\S{32}/)
    const header = /Bearer Harbour%20office\.\S{32}/.exec(await page.driver.executeScript<string>('return document.body.innerText'))![0]
    await page.press('Save changes')
    const settings = await until(async () => {
      const { items } = (await (await fetch(`${site.base}/api/outlets`, { headers: { cookie: site.cookie } })).json()) as Outlets
      return items[0]!.settings.users.length === 1 && items[0]!.settings
    })
    if (!settings) throw new Error('no name was saved')
    expect(settings.users[0]!.token).toEqual({ kept: true })
    const ask = (headers: Record<string, string>) => fetch(`http://127.0.0.1:${settings.doors[0]!.port}/tags`, { headers })
    // the door is opened anew for whom it lets in now
    await until(async () => (await ask({}).catch(() => null))?.status === 401)
    expect((await ask({ authorization: header })).status).toBe(200)
    expect((await ask({ authorization: `${header}x` })).status).toBe(401)
  })
})
