import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { Link } from '#shared/links/link'
import type { Tag } from '#shared/tags'
import { openBrowser, type Browser } from '../support/browser'
import { startSite, type Site } from '../support/site'
import { until } from '../support/until'
import { addressOf, pointBody } from '../support/tagBodies'

/** A cable arm with its own server: from strangers to values on screen; each test goes on where the last one ended. */

let site: Site
let page: Browser

beforeAll(async () => {
  site = await startSite({ arms: 1 })
  page = await openBrowser(site.base, site.cookie)
})
afterAll(async () => {
  await page?.close()
  await site?.stop()
})

const links = () => site.list('/links') as Promise<Link[]>

describe('the trust dance', () => {
  it('finds the ways in from host and port, takes the safest, and stops at a certificate nobody knows', async () => {
    await page.go('/links/new')
    await page.sees('What do you want to connect?')
    await page.pressContaining('Controllers and machines')
    await page.type('Address', `ftp://127.0.0.1:${site.armPort}`)
    await page.leave('Address')
    await page.sees('this link speaks opc.tcp://')
    await page.type('Address', `127.0.0.1:${site.armPort}`)
    await page.sees('7 ways in, the safest first')
    await page.sees('not known here')
    await page.sees('Do you know this server?')
    await page.sees('Cable arm berth 1')
    await page.sees('Compare the fingerprint')
  })

  it('neither trusts: refused here, the link says so and stays broken', async () => {
    await page.press('Refuse')
    await page.sees('The certificate of “Cable arm berth 1” is refused here.')
    await page.press('Save link')
    await page.sees('“Server at 127.0.0.1” saved.')
    expect((await links())[0]).toMatchObject({ kind: 'opcua', settings: { policy: 'Aes256_Sha256_RsaPss', mode: 'SignAndEncrypt' } })
    await page.go('/links')
    await page.sees('is refused here')
  })

  it('we trust, they do not: says what to press there, with the fingerprint that their list shows', async () => {
    await page.go('/site/certificates')
    await page.sees('refused')
    await page.press('Trust')
    await page.sees('is trusted now')
    const [link] = await links()
    await page.go(`/links/${link!.id}`)
    await page.sees('The server refuses our certificate.')
    await page.sees('On the server open its list of refused or waiting certificates, find “Keen Conduit on')
    const waiting = (await site.arm()).clients.find(({ trusted }) => !trusted)!
    const own = (await site.api('/certificates/own')) as { facts: { fingerprint: string; fingerprintSha1: string } }
    expect(waiting.fingerprint).toBe(own.facts.fingerprint)
    expect((await page.text()).replace(/[ ·]/g, '').toLowerCase()).toContain(own.facts.fingerprintSha1)
  })

  it('both trust: flows by itself once it is pressed there', async () => {
    const waiting = (await site.arm()).clients.find(({ trusted }) => !trusted)!
    await site.tellArm('trust', { fingerprint: waiting.fingerprint })
    await page.sees('Connected, no tags yet', 40)
    await page.press('Check now')
    await page.sees('The device answers.')
  })

  it('they trust, we do not: forgetting the certificate breaks the link and brings the question back', async () => {
    await page.go('/site/certificates')
    await page.press('Forget…')
    await page.press('Forget it')
    await page.sees('Do you know this server? Waiting: Server at 127.0.0.1')
    await page.press('Trust it')
    await until(
      async () => ((await site.api('/status')) as { links: { flow: string }[] }).links[0]!.flow,
      (flow) => flow === 'flowing',
    )
  })
})

describe('taking points', () => {
  it('opens place after place, takes single points, and makes tags with names, types and units', async () => {
    const [link] = await links()
    await page.go(`/tags/take?link=${link!.id}`)
    for (const name of ['CableArm', 'Programs', 'Plug', 'Position']) await page.pressRow(name)
    await page.sees('SeatForce')
    await page.pressBox('Take Extension')
    await page.pressBox('Take InEnvelope')
    await page.type('Below the folder', 'berth/1/arm')
    await page.sees('2 points')
    await page.press('Make 2 tags')
    await page.sees('2 tags made.')
    const { items: tags } = (await site.api('/tags')) as { items: Tag[] }
    expect(tags.map(({ path, type, unit, access }) => ({ path, type, unit, access }))).toEqual([
      { path: 'berth/1/arm/extension', type: 'float32', unit: 'm', access: 'read' },
      { path: 'berth/1/arm/in_envelope', type: 'bool', unit: '', access: 'read' },
    ])
    expect(addressOf(tags[0]!)).toBe('nsu=urn:harrow-sound:cable-arm:1:program;s=Plug.Position.Extension')
    await page.sees('Good')
  })

  it('finds by path, takes a whole branch, and says what is a tag already', async () => {
    const [link] = await links()
    await page.go(`/tags/take?link=${link!.id}`)
    await page.typeInto('[aria-label="Find by name or path"]', 'plug/position')
    await page.sees('CableArm / Programs / Plug / Position /')
    await page.typeInto('[aria-label="Find by name or path"]', '')
    for (const name of ['CableArm', 'Programs']) await page.pressRow(name)
    await page.press('Take everything below')
    await page.sees(/1[0-9] points/)
    await page.sees('already a tag: berth/1/arm/extension')
  })

  it('keeps a node by the URI of its namespace, whatever number was typed; where the server has none, as typed', async () => {
    const [link] = await links()
    const made = (path: string, address: string) => pointBody({ path, linkId: link!.id, address, type: 'float32' })
    const byNumber = [made('berth/1/arm/by_number', 'ns=1;s=Somewhere'), made('berth/1/arm/nowhere', 'ns=99;s=Somewhere')]
    const { body: tags } = (await site.api('/tags', { tags: byNumber })) as { body: Tag[] }
    expect(tags.map(addressOf)).toEqual([expect.stringMatching(/^nsu=urn:.*;s=Somewhere$/), 'ns=99;s=Somewhere'])
    await page.go(`/tags/${tags[1]!.id}`)
    await page.type('Address', 'ns=1;s=Elsewhere')
    await page.press('Save changes')
    await page.sees('since the server may number its namespaces anew')
  })
})

describe('secrets', () => {
  it('are sealed in the database, never sent back, and kept when the link is saved without them', async () => {
    const [link] = await links()
    const { id, revision, name, kind, on, settings } = link!
    const identity = { kind: 'password', user: 'conduit', password: { plain: 'plug-and-socket' } }
    const changed = await site.api(`/links/${id}`, { revision, link: { name, kind, on, settings: { ...settings, identity } } }, 'PUT')
    expect(JSON.stringify(changed)).not.toContain('plug-and-socket')
    const saved = (await site.api(`/links/${id}`)) as Link
    expect(saved.settings).toMatchObject({ identity: { user: 'conduit', password: { kept: true } } })
    await page.go(`/links/${id}`)
    await page.sees('as conduit', 30)
    const again = await site.api(`/links/${id}`, { revision: saved.revision, link: { name, kind, on, settings: saved.settings } }, 'PUT')
    expect(again).toMatchObject({ status: 200 })
    await page.go(`/links/${id}`)
    await page.sees('as conduit', 30)
    expect(await site.api('/links', { name: 'Other', kind, settings: saved.settings })).toMatchObject({
      status: 422,
      body: { fields: [{ path: 'settings.identity.password', message: 'Nothing is kept here yet; type the secret.' }] },
    })
  })
})
