import { randomUUID } from 'node:crypto'
import pg from 'pg'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { CheckPoint, CheckSheet } from '#shared/checks'
import { openBrowser, type Browser } from '../support/browser'
import { openCuttable } from '../support/cuttable'
import { describedCalls } from '../support/describedCalls'
import { signInTo } from '../support/signIn'
import { startSite, type Site } from '../support/site'
import { until } from '../support/until'

/** A sheet is worked off from an empty site, with others, and without a connection for a while; each test goes on where the last one ended. */

let site: Site
let way: Awaited<ReturnType<typeof openCuttable>>
let page: Browser
let call: Awaited<ReturnType<typeof describedCalls>>['call']
let other: Awaited<ReturnType<typeof describedCalls>>['call']
let sheet: CheckSheet

const points = async () => ((await call('GET', `/check-sheets/${sheet.id}/points`)).body as unknown as { items: CheckPoint[] }).items
const pointOf = async (path: string) => (await points()).find((point) => point.path === path)!
const shows = (words: string) =>
  until(
    () => page.text(),
    (text) => text.includes(words),
  )
const rowOf = async (path: string) => (await page.texts('.slot')).find((row) => row.includes(path)) ?? ''
const rowSays = (path: string, words: string) =>
  until(
    () => rowOf(path),
    (row) => row.includes(words),
  )
const open = (path: string) => page.pressAt(`.slot [title="${path}"]`)

beforeAll(async () => {
  site = await startSite()
  way = await openCuttable(Number(new URL(site.base).port))
  ;({ call } = await describedCalls(site))
  const { body } = await call('POST', '/people', { name: 'Ida', role: 'operate' })
  const cookie = await signInTo(site.base, 'Ida', String(body.password))
  await fetch(`${site.base}/api/session/password`, {
    method: 'PUT',
    headers: { cookie, 'content-type': 'application/json' },
    body: JSON.stringify({ present: body.password, next: 'the quay at night' }),
  })
  ;({ call: other } = await describedCalls({ ...site, cookie }))
  const link = { name: 'Meters', kind: 'modbus-tcp', settings: { host: '127.0.0.1', port: site.modbusPort, unit: 11 } }
  const { id: linkId } = (await call('POST', '/links', link)).body as unknown as { id: number }
  const memory = (path: string) => ({ path, source: { kind: 'memory', start: 5 }, type: 'int32', access: 'readwrite', unit: 'A' })
  const source = { kind: 'point', linkId, address: 'holding/40', options: { order: 'ABCD' } }
  const power = { path: 'berth/1/power', type: 'float32', unit: 'kW', source }
  await call('POST', '/tags', { tags: [power, memory('berth/1/a'), memory('berth/1/b'), memory('berth/1/c')] })
  page = await openBrowser(way.base, site.cookie)
})
afterAll(async () => {
  await page?.close()
  await way?.close()
  await site?.stop()
})

describe('a check sheet', () => {
  it('is made for a folder, and its first point checked with what is read, its bytes and its frames', async () => {
    await page.go('/tags/checks')
    await page.press('Make a sheet')
    await page.type('Name', 'Berth 1')
    await page.type('Against', 'Panel of berth 1')
    await page.type('Tags, or folders with all that lies in them', 'berth/1')
    await page.press('Make sheet')
    await rowSays('berth/1/power', 'not checked')
    ;[sheet] = ((await call('GET', '/check-sheets')).body as unknown as { items: CheckSheet[] }).items as [CheckSheet]
    await open('berth/1/power')
    await page.press('Take what is read now')
    await shows('2 frames')
    const seen = (await page.valueOf('Seen here')) ?? ''
    await page.type('Expected', seen)
    await shows('They agree.')
    await page.press('Good')
    await rowSays('berth/1/power', 'good')
    const { last, tag } = await pointOf('berth/1/power')
    expect(last).toMatchObject({ who: site.admin.name, expected: seen, seen, isAttached: true })
    const [check] = (await call('GET', `/check-sheets/${sheet.id}/checks?tag=${tag}`)).body as unknown as {
      evidence: { frames: object[] }
    }[]
    expect(check!.evidence.frames).toMatchObject([{ out: true }, { out: false }])
  })

  it('shows who is at which point, and what they checked', async () => {
    const [a, b] = [await pointOf('berth/1/a'), await pointOf('berth/1/b')]
    await other('PUT', `/check-sheets/${sheet.id}/place`, { tag: b.tag })
    await rowSays('berth/1/b', 'Ida is at it')
    await open('berth/1/b')
    await shows('Ida is at this point as well.')
    const company = (await other('PUT', `/check-sheets/${sheet.id}/place`, { tag: b.tag })).body as unknown as { people: object[] }
    expect(company.people).toEqual([{ who: site.admin.name, tag: b.tag }])
    const check = { key: randomUUID(), tag: a.tag, at: Date.now(), way: 'looked', outcome: 'bad', remark: 'lamp is dark' }
    await other('POST', `/check-sheets/${sheet.id}/checks`, { checks: [check] })
    await rowSays('berth/1/a', 'not good')
    expect(await rowOf('berth/1/a')).toContain('lamp is dark')
    // a key belongs to one check
    const { body } = await other('POST', `/check-sheets/${sheet.id}/checks`, { checks: [{ ...check, tag: b.tag }] })
    expect(body).toMatchObject({ taken: [], refused: [{ fault: { code: 'checks.key-taken' } }] })
  })

  it('is worked on without a connection, also when the page is loaded anew; afterwards each check is there once', async () => {
    // at hand once the worker has seen the page and its points
    const kept = () =>
      page.driver.executeAsyncScript<string[]>(
        `const done = arguments[0]
         caches.open('conduit-work').then((cache) => cache.keys()).then((all) => done(all.map(({ url }) => new URL(url).pathname)), () => done([]))`,
      )
    await until(kept, (all) => ['/', '/api/session', `/api/check-sheets/${sheet.id}/points`].every((one) => all.includes(one)))
    way.cut()
    await shows('The site does not answer.')
    await open('berth/1/c')
    await page.type('Remark', 'by torchlight')
    await page.press('Good')
    await rowSays('berth/1/c', 'good, on the way')
    await page.load(`/tags/checks/${sheet.id}`)
    await rowSays('berth/1/c', 'good, on the way')
    expect(await page.text()).toContain('1 check on the way')
    expect((await pointOf('berth/1/c')).state).toBe('unchecked')
    way.mend()
    await until(
      () => pointOf('berth/1/c'),
      ({ state, checks }) => state === 'good' && checks === 1,
    )
    await until(
      () => rowOf('berth/1/c'),
      (row) => row.includes('good') && !row.includes('on the way'),
    )
    expect((await pointOf('berth/1/c')).last).toMatchObject({ remark: 'by torchlight', who: site.admin.name })
  })

  it('is closed, printed, and says which point was changed afterwards', async () => {
    await page.press('Change')
    await page.press('Close…')
    await page.press('Close it')
    await until(
      () => call('GET', `/check-sheets/${sheet.id}`),
      ({ body }) => body.closedAt !== null,
    )
    const pdf = await fetch(`${site.base}/api/check-sheets/${sheet.id}/report.pdf`, { headers: { cookie: site.cookie } })
    expect(pdf.headers.get('content-type')).toBe('application/pdf')
    expect(
      Buffer.from(await pdf.arrayBuffer())
        .subarray(0, 5)
        .toString(),
    ).toBe('%PDF-')
    const client = new pg.Client({ connectionString: site.databaseUrl })
    await client.connect()
    const { tag } = await pointOf('berth/1/a')
    await client.query("update check_result set outcome = 'good' where tag_id = $1", [tag])
    await client.end()
    await page.load(`/tags/checks/${sheet.id}`)
    await shows('berth/1/a changed')
    expect((await call('GET', `/check-sheets/${sheet.id}`)).body.touched).toEqual([{ what: 'changed', path: 'berth/1/a' }])
  })

  it('lets nobody see what another one looked at in the same browser', async () => {
    await page.pressContaining(site.admin.name)
    await page.press('Sign out')
    await page.find('#sign-in-name, input[autocomplete="username"]')
    const caches = () => page.driver.executeAsyncScript<string[]>('caches.keys().then(arguments[0])')
    await until(caches, (names) => !names.includes('conduit-work'))
  })
})
