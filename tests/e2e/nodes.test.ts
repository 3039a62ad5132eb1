import { spawn, type ChildProcess } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { NodeStatus } from '#shared/nodes'
import { freePort } from '../../launcher/ports.mjs'
import { openBrowser, type Browser } from '../support/browser'
import { describedCalls } from '../support/describedCalls'
import { closeAll, metersFor, type Closing } from '../support/engineOn'
import { startSite, type Site } from '../support/site'
import { until } from '../support/until'

/** A machine becomes a node by the command that the page shows, from an empty site; each test goes on where the last one ended. */

const closing: Closing = []
const folder = mkdtempSync(join(tmpdir(), 'conduit-node-'))
let site: Site
let page: Browser
let call: Awaited<ReturnType<typeof describedCalls>>['call']
let port: number
let meters: Awaited<ReturnType<typeof metersFor>>

/** `./conduit node …` on a machine that keeps its state elsewhere. */
const conduit = (...args: string[]): Promise<{ status: number | null; told: string }> =>
  new Promise((resolve) => {
    const child: ChildProcess = spawn(process.execPath, ['launcher/main.mjs', 'node', ...args], {
      env: { ...process.env, CONDUIT_STATE: folder },
    })
    let told = ''
    for (const stream of [child.stdout!, child.stderr!]) stream.on('data', (part: Buffer) => (told += part.toString()))
    child.on('exit', (status) => resolve({ status, told }))
  })

beforeAll(async () => {
  site = await startSite()
  closing.push(() => site.stop())
  ;({ call } = await describedCalls(site))
  meters = await metersFor(closing)
  page = await openBrowser(site.base, site.cookie)
  closing.push(() => page.close())
  port = await freePort()
})
afterAll(async () => {
  await conduit('stop')
  await closeAll(closing)
  rmSync(folder, { recursive: true, force: true })
})

const node = async () => ((await call('GET', '/status')).body.nodes as NodeStatus[])[0]!
const untilNode = (isRight: (status: NodeStatus) => boolean) => until(node, isRight)
const pidOf = () => (JSON.parse(readFileSync(join(folder, 'node', 'node-status.json'), 'utf8')) as { pid: number }).pid

describe('a node', () => {
  it('is made on the page, once nodes can come in somewhere', async () => {
    await page.go('/site/nodes')
    await page.sees('No node yet')
    await page.press('Open it')
    await page.sees('Type where it is reached')
    await page.type('Nodes reach us at', '127.0.0.1')
    await page.type('Port', String(port))
    await page.press('Open it')
    await page.sees(`127.0.0.1:${port}, listens at 0.0.0.0:${port}`)
    await page.type('Name', 'Outer quay')
    await page.press('Make node')
    await page.sees('Waits for its machine.')
  })

  it('that is to stand by is told what is missing for that', async () => {
    await page.type('Name', 'Second cabinet')
    await page.pressBox('It stands by for the whole site')
    await page.press('Make node')
    await page.sees('Type where it is reached')
    await page.type('The others reach it at', '127.0.0.1')
    await page.press('Make node')
    await page.sees('stands by')
    await page.pressAt('[data-node="Second cabinet"] button:nth-of-type(2)')
    await page.sees('The database of this site is its own and listens on this machine only')
    const second = ((await call('GET', '/status')).body.nodes as NodeStatus[]).find(({ name }) => name === 'Second cabinet')!
    await call('DELETE', `/nodes/${second.id}`)
  })

  it('is a machine by one command, which serves once', async () => {
    await page.press('Make its command')
    const [command] = await until(
      () => page.texts('.code'),
      (codes) => codes.length === 1,
    )
    expect(command).toMatch(new RegExp(`^\\./conduit node 127\\.0\\.0\\.1:${port}/[0-9A-Z-]{39}$`))
    const code = command!.split(' ').at(-1)!
    const joined = await conduit(code)
    expect(joined.told).toContain('This machine is the node “Outer quay”')
    expect(joined).toMatchObject({ status: 0 })
    await page.sees('Connected: 0 links, 0 tags.')
    expect((await conduit('status')).told).toMatch(/Node +Outer quay of .*\nSite +connected/)
    const again = await conduit(code)
    expect(again.status).toBe(1)
  })

  it('runs a link that is placed on it, and its tags have values here', async () => {
    await page.go('/links/new?kind=modbus-tcp')
    await page.type('Name', 'Quay meters')
    await page.choose('Runs on', 'Outer quay')
    await page.type('Host', '127.0.0.1')
    await page.type('Port', String(meters.port))
    await page.type('Unit', '11')
    await page.sees('The device answers')
    await page.sees('from Outer quay')
    await page.press('Save link')
    await page.sees('Quay meters')
    const [link] = (await site.list('/links')) as { id: number; nodeId: number }[]
    expect(link!.nodeId).toBe((await node()).id)
    await call('POST', '/tags', {
      tags: [{ path: 'quay/power', source: { kind: 'point', linkId: link!.id, address: 'holding/40' }, type: 'float32' }],
    })
    await untilNode(({ goodTags, isBehind }) => goodTags === 1 && !isBehind)
    await page.go('/links')
    await page.sees('Outer quay')
    const walked = (await call('POST', `/links/${link!.id}/check`, {})).body as unknown
    expect(JSON.stringify(walked)).not.toContain('node.away')
  })

  it('runs an outlet and a bridge with the tags of its links, and says what it does not have', async () => {
    const nodeId = (await node()).id
    const [link] = (await site.list('/links')) as { id: number }[]
    await page.go('/outlets/new?kind=modbus-server')
    await page.type('Name', 'Cabinet registers')
    await page.choose('Runs on', 'Outer quay')
    const doorPort = await freePort()
    await page.type('Port', String(doorPort))
    await page.press('Open the outlet')
    const outlet = await until(
      async () => ((await site.list('/outlets')) as { id: number; nodeId: number }[])[0]!,
      (made) => made !== undefined,
    )
    expect(outlet.nodeId).toBe(nodeId)
    await until(
      async () => ((await call('GET', '/status')).body.outlets as { flow: string }[])[0],
      (status) => status?.flow === 'flowing',
    )
    // asked where it runs
    expect((await call('GET', `/outlets/${outlet.id}/calls`)).status).toBe(200)
    expect((await call('GET', `/outlets/${outlet.id}/traffic?limit=1`)).status).toBe(200)
    const address = { base: 'https://127.0.0.1:9', signIn: { kind: 'bearer', token: { plain: 'none' } } }
    const cloud = { name: 'Cloud', kind: 'cloud-platform', nodeId, settings: { site: 'harrow', way: { kind: 'http', ...address } } }
    const refused = (await call('POST', '/outlets', cloud)).body.fields
    expect(refused).toMatchObject([{ path: 'nodeId', message: 'A cloud platform is fed from the machine of the site.' }])

    await call('POST', '/tags', { tags: [{ path: 'here', source: { kind: 'memory', start: 1 }, type: 'int32' }] })
    const bridge = (path: string, more: object = {}) => ({
      ...{ name: 'Power', when: [{ kind: 'period', every: 200 }], take: [{ kind: 'tag', name: 'v', path }], nodeId },
      send: [{ kind: 'tags', number: 1, fields: [{ into: 'quay/copy', from: 'v' }] }],
      ...more,
    })
    const messagesOf = async (draft: object) => (await call('POST', '/bridges', draft)).body.fields?.map(({ message }) => message)
    expect(await messagesOf(bridge('here'))).toEqual(['“Outer quay” has no tag “here”: it knows those of its own links.'])
    expect(await messagesOf(bridge('quay/power', { nodeId: 999_999 }))).toContain('There is no such node any more.')
    const call_ = { kind: 'message', linkId: link!.id, filter: 'a' }
    expect((await messagesOf(bridge('quay/power', { when: [call_], nodeId: null })))!.length).toBeGreaterThan(0)
    const made = (await call('POST', '/bridges', bridge('quay/power'))).body as unknown as { id: number }
    await until(
      async () => ((await call('GET', '/status')).body.bridges as { runs: number }[])[0],
      (status) => (status?.runs ?? 0) > 2,
    )
    expect((await call('GET', `/bridges/${made.id}/runs`)).body.total).toBeGreaterThan(2)
    expect((await call('POST', `/bridges/${made.id}/run`)).status).toBe(200)
    await page.go('/bridges')
    await page.sees('Outer quay')
    await call('DELETE', `/bridges/${made.id}`)
    await call('DELETE', `/outlets/${outlet.id}`)
  })

  it('that is killed is brought back by itself, and comes in again', async () => {
    const before = pidOf()
    process.kill(before, 'SIGKILL')
    await until(() => pidOf() !== before)
    await untilNode(({ isConnected, goodTags }) => isConnected && goodTags === 1)
  })

  it('that stands still is told as away, and nothing of it counts as good', async () => {
    process.kill(pidOf(), 'SIGSTOP')
    await untilNode(({ isConnected }) => !isConnected)
    const { items } = (await call('GET', '/tags?quality=bad')).body as { items: { path: string }[] }
    expect(items.map(({ path }) => path)).toContain('quay/power')
    await page.go('/site/nodes')
    await page.sees('is not connected since')
    process.kill(pidOf(), 'SIGCONT')
    await untilNode(({ isConnected, goodTags }) => isConnected && goodTags === 1)
  })

  it('is removed once no link is placed on it, and its machine is told', async () => {
    await page.go('/site/nodes')
    await page.press('Remove…')
    await page.press('Remove')
    await page.sees('On “Outer quay” run link “Quay meters”')
    const [link] = (await site.list('/links')) as { id: number }[]
    await call('DELETE', `/links/${link!.id}?tags=remove`)
    await page.press('Remove…')
    await page.press('Remove')
    await page.sees('No node yet')
    const { told } = await until(
      () => conduit('status'),
      (status) => status.told.includes('does not know this machine'),
    )
    expect(told).toContain('./conduit node')
    expect((await conduit('leave')).status).toBe(0)
    expect((await conduit('status')).told).toContain('This machine is no node yet')
  })
})
