import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { PairingOffer, Relay } from '#shared/pairing'
import { freePort } from '../../launcher/ports.mjs'
import { openBrowser, type Browser } from '../support/browser'
import { databaseIn } from '../support/cluster'
import { describedCalls } from '../support/describedCalls'
import { closeAll, type Closing } from '../support/engineOn'
import { copyOn } from '../support/pairing'
import { startSite, type Site } from '../support/site'
import { until } from '../support/until'

/** A far copy is paired with a code, from an empty site; each test goes on where the last one ended. */

const closing: Closing = []
let site: Site
let page: Browser
let far: Awaited<ReturnType<typeof copyOn>>
let call: Awaited<ReturnType<typeof describedCalls>>['call']
let port: number

beforeAll(async () => {
  site = await startSite()
  closing.push(() => site.stop())
  ;({ call } = await describedCalls(site))
  page = await openBrowser(site.base, site.cookie)
  closing.push(() => page.close())
  const database = await databaseIn(site.databaseUrl)
  closing.push(() => database.db.destroy())
  far = await copyOn(closing, database, { 'berth/3/power': 812.4 })
  port = await freePort()
})
afterAll(() => closeAll(closing))

const relays = async () => (await call('GET', '/relays')).body as unknown as Relay[]

describe('a code', () => {
  it('is made, shown for a while, and withdrawn', async () => {
    await page.go('/site/relays')
    await page.sees('Nothing is paired yet')
    await page.press('Make the code')
    await page.sees('Type where the other copy reaches this machine')
    await page.type('The other copy reaches us at', '127.0.0.1')
    await page.pressAt('.fold .line')
    await page.type('Port', String(port))
    await page.press('Make the code')
    await page.sees('open, for 15 min more')
    expect(await page.texts('.code')).toEqual([expect.stringMatching(new RegExp(`^127\\.0\\.0\\.1:${port}/[0-9A-Z-]{39}$`))])
    await page.press('Withdraw')
    await until(
      () => page.texts('.code'),
      (codes) => codes.length === 0,
    )
  })

  it('is redeemed there: the values are here under the folder, and both are told of each other', async () => {
    await page.type('Name of the link here', 'Ferry berth 3, far cabinet')
    await page.type('Its tags stand in the folder', 'far')
    await page.press('Make the code')
    const [code] = await until(
      () => page.texts('.code'),
      (codes) => codes.length === 1,
    )
    const went = await far.redeem(code!, { give: { may: 'write' } })
    expect(went.fault).toBe(null)
    await page.sees('paired with')
    await page.sees('its values come here')
    await until(
      async () => ((await site.list('/tags')) as { path: string }[]).map(({ path }) => path),
      (paths) => paths.includes('far/berth/3/power'),
    )
    expect(await relays()).toMatchObject([
      { of: 'link', verdict: 'trusted', dials: 'there', fingerprint: far.security.own.facts.fingerprint },
    ])
  })

  it('of the other copy says where it leads and which way values go, before it is used', async () => {
    await page.type('Code of the other copy', '10.20.0.5:4843/AB12')
    await page.sees('A code has 32 letters and digits after the slash, not 4.')
    const give = await far.make({ values: 'from-maker', port: await freePort(), give: { may: 'read' } })
    await page.type('Code of the other copy', give.code.toLowerCase())
    await page.sees('Its values come here.')
    await page.press('Pair')
    await page.sees('Paired.')
    expect(await until(relays, (all) => all.length === 2)).toMatchObject([{}, { dials: 'here', verdict: 'trusted' }])
  })
})

describe('a pairing', () => {
  it('is ended from here: nothing comes any more, and the other side is told', async () => {
    await page.pressAt('tbody tr:first-child .actions button:last-child')
    await page.press('End it')
    await page.sees('ended from this side')
    const [ended] = await relays()
    expect(ended).toMatchObject({ name: 'Ferry berth 3, far cabinet', verdict: 'refused' })
  })

  it('is told by the API, and its refusals are in the words of the catalogue', async () => {
    const place = { values: 'to-maker', host: '127.0.0.1', interface: '127.0.0.1', port: await freePort() }
    const made = (await call('POST', '/relays/codes', place)).body as unknown as PairingOffer
    expect(made).toMatchObject({ state: 'open', by: site.admin.name, tries: 0 })
    expect(((await call('GET', '/relays/codes')).body as unknown as PairingOffer[])[0]).toMatchObject({ id: made.id })
    expect((await call('POST', '/relays/pair', { code: made.code })).body).toMatchObject({ fault: { code: 'pairing.itself' } })
    expect((await call('DELETE', `/relays/codes/${made.id}`)).body).toEqual({ withdrawn: made.id })
    const [, paired] = await relays()
    expect((await call('POST', '/relays/end', { of: 'link', id: paired!.id })).body).toMatchObject({ ended: paired!.name })
    expect((await call('POST', '/relays/end', { of: 'outlet', id: 4000 })).body).toMatchObject({ fault: { code: 'entry.gone' } })
    expect((await call('POST', '/relays/codes', { ...place, host: 'no host' })).status).toBe(422)
  })
})
