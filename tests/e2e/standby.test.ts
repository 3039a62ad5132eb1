import { spawn } from 'node:child_process'
import { chmodSync, existsSync, mkdirSync, mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import pg from 'pg'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { NodeCode, SavedNode } from '#shared/nodes'
import type { EngineStatus } from '#shared/status'
import { freePort } from '../../launcher/ports.mjs'
import { startCluster } from '../support/cluster'
import { describedCalls } from '../support/describedCalls'
import { signInFirst, signInTo } from '../support/signIn'
import type { Site } from '../support/site'
import { until } from '../support/until'

/** A site of two machines by its commands alone, from an empty one; each test goes on where the last one ended. */

const folder = mkdtempSync(join(tmpdir(), 'conduit-standby-'))
let cluster: Awaited<ReturnType<typeof startCluster>>
let url: string
const ports = { first: 0, second: 0 }
type Machine = keyof typeof ports

const conduit = (machine: Machine, ...args: string[]): Promise<{ status: number | null; told: string }> =>
  new Promise((resolve) => {
    const state = join(folder, machine)
    mkdirSync(state, { recursive: true })
    chmodSync(state, 0o755)
    const env = { ...process.env, CONDUIT_STATE: state, CONDUIT_PORT: String(ports[machine]), CONDUIT_NODE: `the ${machine}` }
    const child = spawn(process.execPath, ['launcher/main.mjs', ...args], { env })
    let told = ''
    for (const stream of [child.stdout, child.stderr]) stream.on('data', (part: Buffer) => (told += part.toString()))
    child.on('exit', (status) => resolve({ status, told }))
  })

const siteAt = (machine: Machine, cookie: string): Site => {
  const base = `http://127.0.0.1:${ports[machine]}`
  const api = async (path: string) => (await fetch(`${base}/api${path}`, { headers: { cookie } })).json() as Promise<unknown>
  return { base, cookie, api } as unknown as Site
}

beforeAll(async () => {
  chmodSync(folder, 0o755)
  cluster = await startCluster([], true)
  const client = new pg.Client({ connectionString: cluster.url })
  await client.connect()
  await client.query('create database harrow')
  await client.end()
  url = Object.assign(new URL(cluster.url), { pathname: '/harrow' }).toString()
  ports.first = await freePort()
  ports.second = await freePort([ports.first])
})
afterAll(async () => {
  for (const machine of ['first', 'second'] as const) await conduit(machine, 'stop')
  await cluster.stop()
  rmSync(folder, { recursive: true, force: true })
})

let call: Awaited<ReturnType<typeof describedCalls>>['call']
let cookie: string
let node: SavedNode

const leader = async (machine: Machine) => {
  const answer = await fetch(`http://127.0.0.1:${ports[machine]}/api/status`, { headers: { cookie } })
  return answer.ok ? ((await answer.json()) as EngineStatus).lead : null
}

describe('a site of two machines', () => {
  it('has its data on a server that both reach, moved there by one command', async () => {
    const started = await conduit('first', 'start')
    const password = /password\s+(\S+)/.exec(started.told)![1]!
    const base = `http://127.0.0.1:${ports.first}`
    await signInFirst(base, { name: 'admin', password }, 'quay-and-crane-7')
    expect((await conduit('first', 'database', url)).told).toContain('It runs already')
    await conduit('first', 'stop')
    expect((await conduit('first', 'database', 'http://nowhere')).told).toContain('The URL of a PostgreSQL database')
    expect(await conduit('first', 'database', url)).toMatchObject({ status: 0 })
    expect((await conduit('first', 'database', url)).told).toContain('elsewhere already')
    expect((await conduit('first', 'database')).told).toMatch(/The data of this site is in 127\.0\.0\.1:\d+\/harrow/)
    expect((await conduit('first', 'start')).status).toBe(0)
    // who may come in moved with it
    cookie = await signInTo(base, 'admin', 'quay-and-crane-7')
    ;({ call } = await describedCalls(siteAt('first', cookie)))
    // the engine may still be on its way: with a database elsewhere a start waits for the pages only
    const status = await until(
      () => call('GET', '/status'),
      ({ status }) => status === 200,
    )
    expect(status.body.lead).toBeNull()
  })

  it('gets its second machine by one command, which says when it is the wrong one', async () => {
    const [doorAt, doorThere] = [await freePort(), await freePort()]
    const place = { host: '127.0.0.1', interface: '127.0.0.1', outsidePort: null }
    await call('PUT', '/nodes/door', { door: { ...place, port: doorAt } })
    node = (await call('POST', '/nodes', { name: 'harbour-b', standsBy: true, door: { ...place, port: doorThere } }))
      .body as unknown as SavedNode
    const { command, code } = (await call('POST', `/nodes/${node.id}/code`, { minutes: 15 })).body as unknown as NodeCode
    expect(command).toBe(`./conduit standby ${code}`)
    expect((await conduit('second', 'node', code)).told).toContain('This code is for a machine that stands by for its site.')
    expect(existsSync(join(folder, 'second', 'node', 'node.json'))).toBe(false)
    const joined = await conduit('second', 'standby', code)
    expect(joined.told).toContain('This machine is the node “harbour-b”')
    expect(joined.status).toBe(0)
    // people come in at either: the pages of both speak with the machine that leads
    const lead = await until(
      () => leader('second'),
      (seen) => seen?.canHandOver.length === 1,
    )
    expect(lead).toMatchObject({ holdsBy: 'database', canHandOver: [node.id] })
    const secrets = readFileSync(join(folder, 'second', 'site', 'secrets.json'), 'utf8')
    const { seal } = JSON.parse(secrets) as { seal: string }
    const kept = await pgRows(`select * from node`)
    expect(JSON.stringify(kept)).not.toContain(seal)
  })

  it('is handed over, and neither of both is removed or changed while that would leave it without anybody', async () => {
    const before = (await leader('first'))!
    expect((await call('DELETE', `/nodes/${before.node}`)).body.fault?.code).toBe('node.leads')
    expect((await call('POST', '/nodes/999/lead')).body.fault?.code).toBe('node.stands-not-by')
    const [fresh] = ((await call('GET', '/nodes')).body as unknown as SavedNode[]).filter(({ id }) => id === node.id)
    const change = { revision: fresh!.revision, node: { name: 'harbour-b', standsBy: false, door: null } }
    expect((await call('PUT', `/nodes/${node.id}`, change)).body.fault?.code).toBe('node.is-one')
    expect((await call('POST', `/nodes/${node.id}/lead`)).body).toEqual({ asked: node.id })
    const lead = await until(
      () => leader('first'),
      (seen) => seen?.node === node.id && seen.canHandOver.length === 1,
    )
    expect(lead!.fence).toBeGreaterThan(before.fence)
  })

  it('goes on at the first when the second is switched off, with what was configured meanwhile', async () => {
    const { call: there } = await describedCalls(siteAt('second', cookie))
    await there('POST', '/tags', { tags: [{ path: 'quay/limit', source: { kind: 'memory', start: 5 }, type: 'int16' }] })
    expect(await conduit('second', 'stop')).toMatchObject({ status: 0 })
    await until(
      () => leader('first'),
      (seen) => seen !== null && seen.node !== node.id,
    )
    const { items } = (await call('GET', '/tags')).body as unknown as { items: { path: string }[] }
    expect(items.map(({ path }) => path)).toEqual(['quay/limit'])
  })
})

const pgRows = async (query: string) => {
  const client = new pg.Client({ connectionString: url })
  await client.connect()
  const { rows } = await client.query(query)
  await client.end()
  return rows
}
