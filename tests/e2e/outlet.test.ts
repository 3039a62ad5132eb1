import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { tagNamespace } from '#engine/outlets/opcua/addressSpace'
import type { ListedName } from '#shared/outlets/names'
import { settingsAs, type Outlet } from '#shared/outlets/outlet'
import type { Tag } from '#shared/tags'
import { openBrowser, type Browser } from '../support/browser'
import { certificateAt, named, securedScada } from '../support/outlet'
import { startSite, type Site } from '../support/site'
import { until } from '../support/until'
import { freePort } from '../../launcher/ports.mjs'
import { pointBody } from '../support/tagBodies'

/** An outlet for a control room, from an empty site; each test goes on where the last one ended. */

let site: Site
let page: Browser
let port: number
let scada: Awaited<ReturnType<typeof securedScada>>
const closing: (() => Promise<unknown>)[] = []

beforeAll(async () => {
  site = await startSite()
  port = await freePort()
  page = await openBrowser(site.base, site.cookie)
  const link = {
    name: 'Feeder meters',
    kind: 'modbus-tcp',
    settings: { host: '127.0.0.1', port: site.modbusPort, unit: 11, order: 'CDAB' },
  }
  const { body } = (await site.api('/links', link)) as unknown as { body: { id: number } }
  const tag = (path: string, address: string, more: object = {}) => pointBody({ path, linkId: body.id, address, type: 'float32', ...more })
  await site.api('/tags', {
    tags: [
      tag('berth/1/shore/active_power', 'holding/40', { unit: 'kW', range: { low: 0, high: 4000 } }),
      tag('berth/1/shore/trip_limit', 'holding/90', { access: 'readwrite' }),
      tag('quay/frequency', 'holding/64'),
    ],
  })
})
afterAll(async () => {
  for (const close of closing.reverse()) await close().catch(() => {})
  await page?.close()
  await site?.stop()
})

const outlet = async () => ((await site.list('/outlets')) as Outlet[])[0]!
const guest = named('control room', 'behind the glass')

describe('settings', () => {
  it('say at the field what would let nobody in, and what lets a password travel in the clear', async () => {
    await page.go('/outlets/new?kind=opcua-server')
    await page.type('Name', 'To the control room')
    await page.type('Port', String(port))
    await page.pressBox('By name and password')
    await page.press('Open the outlet')
    await page.sees('Names and certificates need a policy that secures.')
    expect(await site.list('/outlets')).toEqual([])
  })

  it('open a secured door for names, each with rights by folder', async () => {
    await page.choosePlus('Policies', 'Basic256Sha256')
    await page.choosePlus('Policies', 'None')
    await page.pressBox('Anonymous')
    await page.press('Add a name')
    await page.type('Name 1', 'control room')
    await page.type('Password 1', 'behind the glass')
    await page.choose('Rights of control room, folder 1 may be', 'read, write where mapped')
    await page.type('Rights of control room, folder 1', 'berth/1')
    await page.press('Open the outlet')
    await page.sees('no client connected')
    expect((await outlet()).settings).toMatchObject({
      doors: [{ port, policies: ['Basic256Sha256'], anonymous: false, names: true }],
      users: [{ name: 'control room', key: { kind: 'password', password: { kept: true } }, rules: [{ folder: 'berth/1', may: 'write' }] }],
    })
  })
})

describe('the trust dance at the door', () => {
  it('neither trusts: the client sees our certificate, takes only another one, and finds no way in', async () => {
    const shown = await certificateAt(port)
    const own = (await site.api('/certificates/own')) as { facts: { fingerprint: string } }
    expect(shown.facts.fingerprint).toBe(own.facts.fingerprint)
    scada = await securedScada(shown.der, port, closing)
    scada.distrust()
    await expect(scada.dial(guest)).rejects.toThrow()
    scada.trust()
  })

  it('the client trusts us, nobody here has decided: it stands at the door, and is refused in one press', async () => {
    await expect(scada.dial(guest)).rejects.toThrow(/BadSecurityChecksFailed|BadCertificateUntrusted/)
    await page.sees('At the door')
    await page.sees(scada.security.own.facts.name)
    await page.press('Refuse')
    await until(page.text, (seen) => !seen.includes('At the door'))
    await expect(scada.dial(guest)).rejects.toThrow()
    expect(await page.text()).not.toContain('At the door')
  })

  it('we trust it, and it only another one: no way in, and nobody stands at the door', async () => {
    await page.go('/site/certificates')
    await page.press('Trust')
    await page.sees('is trusted now')
    scada.distrust()
    await expect(scada.dial(guest)).rejects.toThrow()
    scada.trust()
    await page.go(`/outlets/${(await outlet()).id}`)
    await page.sees('Nobody is connected.')
    expect(await page.text()).not.toContain('At the door')
  })

  it('both trust: it comes in as who it is, and gets what that one may see', async () => {
    await page.go(`/outlets/${(await outlet()).id}`)
    const client = await scada.dial(guest)
    await until(async () => (await client.read(tagNamespace, 'berth/1/shore/trip_limit')).statusCode.name === 'Good')
    expect(await client.write(tagNamespace, 'berth/1/shore/trip_limit', 1450, 10)).toBe('Good')
    expect(await site.channel(11, 'trip_limit')).toBe(1450)
    expect((await client.read(tagNamespace, 'quay/frequency')).statusCode.name).toBe('BadUserAccessDenied')
    await page.sees(/control room\s*Basic256Sha256/)
    await page.sees('read: the user may not do this')
  })

  it('taken back, it is out at once', async () => {
    await page.go('/site/certificates')
    await page.press('Refuse')
    await page.sees('is refused now')
    await page.go(`/outlets/${(await outlet()).id}`)
    await page.sees('Nobody is connected.')
    await expect(scada.dial(guest)).rejects.toThrow()
  })
})

describe('the way in', () => {
  it('is checked as a client finds it', async () => {
    await page.press('Check this door')
    await page.sees(`TCP ${port} open, and OPC UA answers`)
    await page.sees(`Basic256Sha256, Sign & encrypt at opc.tcp://127.0.0.1:${port}`)
    await page.sees('is for 127.0.0.1, valid until')
    await page.sees('this door is for this machine only')
  })

  it('stands on a card, with what to trust and no secret', async () => {
    await page.press('Card for the consumer’s side')
    await page.sees(`opc.tcp://127.0.0.1:${port}`)
    const { facts } = await certificateAt(port)
    const pairs = facts.fingerprint.toUpperCase().match(/../g)!
    await page.sees(pairs.slice(0, 4).join(' '))
    await page.sees('by password: berth/1: read, write where mapped')
    expect(await page.text()).not.toContain('behind the glass')
  })
})

describe('short names', () => {
  it('are shown on request, found both ways, and one’s own are checked as they are typed', async () => {
    await page.go(`/outlets/${(await outlet()).id}/names`)
    await page.sees('These names are not shown to clients yet.')
    await page.press('Show them')
    await page.sees('Short names are shown to clients.')
    await page.type('Find', 'quay_f')
    await page.sees('quay/frequency')
    await until(page.text, (seen) => !seen.includes('trip_limit'))
    await page.press('own name')
    await page.type('Short name', 'HZ 1')
    await page.sees('letters, digits and _ only')
    await page.type('Short name', 'HZ1')
    await page.press('Save')
    await page.sees('quay/frequency goes by HZ1.')
    const names = (await site.list(`/outlets/${(await outlet()).id}/names`)) as ListedName[]
    expect(names.find(({ path }) => path === 'quay/frequency')).toMatchObject({ name: 'HZ1', how: 'own', kind: 'tag' })
  })

  it('can be saved as a file that others read', async () => {
    const response = await fetch(`${site.base}/api/outlets/${(await outlet()).id}/names.csv`, { headers: { cookie: site.cookie } })
    expect(response.headers.get('content-disposition')).toMatch(/attachment; filename="short-names-\d+\.csv"/)
    const lines = (await response.text()).split('\r\n')
    expect(lines[0]).toBe('short_name,path,kind,origin')
    expect(lines).toContain('HZ1,quay/frequency,tag,own')
  })
})

describe('a guest’s password', () => {
  it('stays with its name when another one above it goes', async () => {
    const { id, revision, ...draft } = await outlet()
    const first = {
      name: 'old panel',
      key: { kind: 'password', password: { plain: 'of the old panel' } },
      rules: [{ folder: '', may: 'read' }],
    }
    const change = (users: unknown[], from: number) =>
      site.api(
        `/outlets/${id}`,
        { revision: from, outlet: { ...draft, settings: { ...draft.settings, users } } },
        'PUT',
      ) as unknown as Promise<{
        status: number
        body: Outlet
      }>
    const added = await change([first, ...settingsAs('opcua-server', draft)!.users], revision)
    expect(added.status).toBe(200)
    const [, kept] = settingsAs('opcua-server', added.body)!.users
    const dropped = await change([kept], added.body.revision)
    expect(dropped.status).toBe(200)
    await page.go('/site/certificates')
    await page.press('Trust')
    await page.sees('is trusted now')
    // the engine hears of the decision a moment after the page does
    const client = (await until(() => scada.dial(guest).catch(() => null)))!
    expect((await client.read(tagNamespace, 'berth/1/shore/trip_limit')).statusCode.name).toBe('Good')
    await expect(scada.dial(named('old panel', 'of the old panel'))).rejects.toThrow()
  })

  it('cannot be a certificate that nobody can read', async () => {
    const { id, revision, ...draft } = await outlet()
    const certificate = '-----BEGIN CERTIFICATE-----\nAAAA\n-----END CERTIFICATE-----'
    const users = [{ name: 'panel', key: { kind: 'certificate', certificate }, rules: [{ folder: '', may: 'read' }] }]
    const refused = (await site.api(
      `/outlets/${id}`,
      { revision, outlet: { ...draft, settings: { ...draft.settings, users } } },
      'PUT',
    )) as unknown as { status: number; body: { fields: { path: string }[] } }
    expect(refused.status).toBe(422)
    expect(refused.body.fields).toMatchObject([{ path: 'settings.users.0.key.certificate' }])
  })
})

describe('ranges of tags', () => {
  it('are entered on the sheet, refused upside down, and taken away again', async () => {
    const tags = (await site.api('/tags?find=active_power')) as { items: Tag[] }
    const { id, range } = tags.items[0]!
    expect(range).toEqual({ low: 0, high: 4000 })
    await page.go(`/tags/${id}`)
    await page.type('Range from', '5000')
    await page.press('Save changes')
    await page.sees('The high end lies above the low end.')
    await page.type('Range to', '6000')
    await page.press('Save changes')
    await page.sees('active_power saved.')
    expect(((await site.api(`/tags/${id}`)) as Tag).range).toEqual({ low: 5000, high: 6000 })
  })
})

describe('a client to which nothing but our own connection comes', () => {
  it('is dialled: a link of ours awaits it at its door, and looks around over it', async () => {
    const awaitedAt = await freePort()
    await page.go('/links/new?kind=opcua')
    await page.type('Name', 'Far cabinet')
    await page.choose('Connection', 'The server dials us')
    await page.type('Port', String(awaitedAt))
    await page.sees(`opc.tcp://127.0.0.1:${awaitedAt}`)
    await page.sees('Only servers on this machine can')
    await page.press('Save link')
    await page.sees('Its traffic')
    const { id, revision, ...draft } = await outlet()
    const way = { host: '127.0.0.1', port: awaitedAt }
    const save = (dialled: object[]) =>
      site.api(`/outlets/${id}`, { revision, outlet: { ...draft, settings: { ...draft.settings, dialled } } }, 'PUT')
    expect(await save([way, way])).toMatchObject({ status: 422, body: { fields: [{ path: 'outlet.settings.dialled.1.port' }] } })
    expect(await save([{ ...way, policies: ['None'] }])).toMatchObject({ status: 200 })
    await page.go(`/outlets/${id}`)
    await page.sees(/Dialled clients[\s\S]*1 connection taken up/)
    const { items } = (await site.api('/links')) as { items: { id: number; name: string }[] }
    await page.go(`/links/${items.find(({ name }) => name === 'Far cabinet')!.id}`)
    await page.sees(/Our door[\s\S]*The server dials[\s\S]*First value/)
    await page.press('Take points')
    await page.pressRow('quay')
    await page.sees('frequency')
  })
})
