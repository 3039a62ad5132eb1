import { readdirSync, readFileSync } from 'node:fs'
import { createServer, type Server } from 'node:net'
import { basename, join } from 'node:path'
import { connect } from 'mqtt'
import { strFromU8, unzipSync } from 'fflate'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { readCapture } from '#core/traffic/capture/blocks'
import type { PathRecord } from '#shared/diagnosis'
import type { EngineStatus } from '#shared/status'
import { freePort } from '../../launcher/ports.mjs'
import { Key } from 'selenium-webdriver'
import { tagNamespace } from '#engine/outlets/opcua/addressSpace'
import { plainClient } from '../support/outlet'
import { signInFirst } from '../support/signIn'
import { openBrowser, type Browser } from '../support/browser'
import { startSite, type Site } from '../support/site'
import { until } from '../support/until'

/** From a value that is dead to the machine where something has to be done, and a pack for whoever helps. */

let site: Site
let page: Browser
let link: number
let controlRoom: number
const listeners: Server[] = []

const checksOf = async (id: number) => (await site.api(`/links/${id}/checks`)) as PathRecord[]

/** Whether it is kept how the path of the link was while it worked. */
const wasTakenDown = () => {
  const file = readdirSync(site.folder, { recursive: true, encoding: 'utf8' }).find((name) => basename(name) === 'path-checks.json')
  return file !== undefined && readFileSync(join(site.folder, file), 'utf8').includes(`["link ${link}",{`)
}

beforeAll(async () => {
  site = await startSite()
  page = await openBrowser(site.base, site.cookie)
  const settings = {
    host: '127.0.0.1',
    port: site.modbusPort,
    unit: 11,
    patience: { connect: 1000, answer: 500, retryFirst: 200, retryMost: 400 },
  }
  const made = (await site.api('/links', { name: 'Berth meters', kind: 'modbus-tcp', settings })) as { body: { id: number } }
  link = made.body.id
  const source = { kind: 'point', linkId: link, address: 'holding/40', interval: 300 }
  await site.api('/tags', { tags: [{ path: 'berth/1/power', source, type: 'float32' }] })
  await until(async () => ((await site.api('/status')) as EngineStatus).goodTags === 1, Boolean, 30)
})
afterAll(async () => {
  for (const listener of listeners) listener.close()
  await page?.close()
  await site?.stop()
})

describe('a dead value', () => {
  it('comes from the line-up in one press to the step that failed, its cause, and what is otherwise', async () => {
    const { revision, ...before } = (await site.api(`/links/${link}`)) as {
      revision: number
      id: number
      settings: { port: number }
    } & Record<string, unknown>
    // how it was while it worked is taken down some seconds after it began to
    await until(wasTakenDown, Boolean, 30)
    const { id: _, ...draft } = before
    await site.api(`/links/${link}`, { revision, link: { ...draft, settings: { ...draft.settings, port: await freePort() } } }, 'PUT')
    await page.go('/')
    await page.sees(/Berth meters[\s\S]*refuses port/)
    await page.press('See why')
    await page.sees(/Nobody listens on TCP \d+ of 127\.0\.0\.1\./)
    await page.sees('On 127.0.0.1')
    await page.sees(/Its configuration\s+revision \d+ → revision \d+/)
    await page.sees('by itself, as it broke')
    await page.sees('stops at port')
    // whoever looks before that one is made has the path walked for him, too
    const record = (await checksOf(link)).find(({ why }) => why === 'failure')
    expect(record).toMatchObject({ outcome: 'stopped', verdict: { step: 'port' } })
    expect(record!.verdict!.lastGood).not.toBeNull()
  })

  it('is walked again by hand, and sound again once it is put right', async () => {
    await page.press('Walk the path again')
    await page.sees('asked for')
    await page.press('Edit the link')
    await page.type('Port', String(site.modbusPort))
    await page.press('Save changes')
    await page.sees('saved')
    await page.press('Path check')
    await page.sees(/Fresh values\s+1 of 1 tag good/)
    await page.sees('Every step is sound.')
  })
})

describe('a code', () => {
  it('is found from anywhere, and explained by its layer', async () => {
    await page.go('/journal/codes?text=0x800706BA')
    await page.sees('procedure server unavailable')
    await page.sees('TCP 135')
    await page.type('A code, or a message that holds one', 'connect ECONNREFUSED 10.8.0.4:502')
    await page.sees('the host is there, and nobody listens on that port')
    await page.type('A code, or a message that holds one', 'nothing of the kind')
    await page.sees('No code of it is known here.')
  })
})

/** Takes connections, hears what is said, and says something back. */
const listener = async (says: string) => {
  const server = createServer((socket) => {
    socket.on('error', () => {})
    socket.once('data', () => socket.end(says))
  })
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve))
  listeners.push(server)
  return (server.address() as { port: number }).port
}

describe('a handover pack', () => {
  it('holds the case, and none of the secrets that were planted in settings, names, messages and traffic', async () => {
    const secret = (place: string) => `planted-${place}-7Qx`
    const brokerPort = await listener('')
    const webPort = await listener(`HTTP/1.1 500 No\r\ncontent-type: text/plain\r\n\r\nbad key ${secret('api')}`)
    const identity = (place: string) => ({ kind: 'password', user: 'office', password: { plain: secret(place) } })
    await site.api('/links', {
      name: `Broker ${secret('mqtt')}`,
      kind: 'mqtt',
      settings: { host: '127.0.0.1', port: brokerPort, identity: identity('mqtt') },
    })
    await site.api('/links', {
      ...{ name: 'Web', kind: 'http' },
      settings: {
        base: `http://127.0.0.1:${webPort}`,
        signIn: { kind: 'key', key: { plain: secret('api') } },
        operations: [{ name: 'price', path: '/price' }],
      },
    })
    await site.api('/links', {
      ...{ name: 'Call book', kind: 'sql' },
      settings: { host: '127.0.0.1', port: await listener('E'), user: 'office', database: 'calls', password: { plain: secret('sql') } },
    })
    const outletPort = await freePort()
    const outlet = await site.api('/outlets', {
      ...{ name: 'Messages', kind: 'mqtt-broker' },
      settings: { doors: [{ port: outletPort }], users: [{ name: 'office', password: { plain: secret('user') }, rules: [] }] },
    })
    expect(outlet).toMatchObject({ status: 200 })
    // a consumer comes to our own broker: what we know of its password is a hash
    await until(async () => ((await site.api('/status')) as EngineStatus).outlets[0]?.flow === 'flowing', Boolean, 30)
    const client = connect(`mqtt://127.0.0.1:${outletPort}`, { username: 'office', password: secret('user'), reconnectPeriod: 0 })
    await new Promise<void>((resolve) => client.once('connect', () => resolve()).once('error', () => resolve()))
    client.end(true)
    for (const { id } of (await site.list('/links')) as { id: number }[])
      await (await fetch(`${site.base}/api/links/${id}/check`, { method: 'POST', headers: { cookie: site.cookie } })).text()

    const response = await fetch(`${site.base}/api/site/handover.zip`, { headers: { cookie: site.cookie } })
    expect(response.headers.get('content-type')).toBe('application/zip')
    const files = Object.entries(unzipSync(new Uint8Array(await response.arrayBuffer())))
    const names = files.map(([name]) => name)
    expect(names).toEqual(
      expect.arrayContaining([
        'summary.html',
        'pack.json',
        'configuration.yaml',
        'status.json',
        'machine.json',
        'path-checks.json',
        'statistics.json',
        'journal.jsonl',
        'revisions.jsonl',
      ]),
    )
    expect(names.some((name) => name.startsWith('passed/link-'))).toBe(true)
    expect(names.some((name) => name.startsWith('passed/outlet-'))).toBe(true)
    // what the consumer asked of our broker, and what passed then as analysers read it
    const outletId = (outlet as { body: { id: number } }).body.id
    expect(strFromU8(files.find(([name]) => name === `calls/outlet-${outletId}.jsonl`)![1])).toMatch(/"service":"CONNECT"[^\n]*as office/)
    const capture = readCapture(files.find(([name]) => name === `passed/outlet-${outletId}.pcapng`)![1])
    expect(capture.packets.length).toBeGreaterThan(3)
    for (const [name, bytes] of files)
      for (const place of ['mqtt', 'api', 'sql', 'user']) {
        const planted = Buffer.from(secret(place))
        const forms = [
          planted.toString(),
          planted.toString('base64'),
          planted.toString('hex'),
          planted.toString('hex').replace(/../g, '$& ').trim(),
        ]
        for (const form of forms) expect(`${name} ${strFromU8(bytes).toLowerCase().includes(form.toLowerCase())}`).toBe(`${name} false`)
      }
    // there was something to take out of what passed
    const passed = files.filter(([name]) => name.startsWith('passed/')).map(([, bytes]) => strFromU8(bytes))
    expect(passed.filter((text) => text.includes('2a 2a 2a 2a 2a')).length).toBeGreaterThanOrEqual(2)
    // Base64 of frames: at whatever place of a frame the secret stood
    const checks = JSON.parse(strFromU8(files.find(([name]) => name === 'path-checks.json')![1])) as PathRecord[]
    const pieces = checks.flatMap(({ verdict }) => [...(verdict?.exchange?.good ?? []), ...(verdict?.exchange?.failed ?? [])])
    for (const { bytes } of pieces) expect(Buffer.from(bytes, 'base64').toString('latin1')).not.toContain('planted-')
    const summary = strFromU8(files.find(([name]) => name === 'summary.html')![1])
    expect(summary).toContain('stops at “')
    expect(summary).toContain('The machine')
    expect(summary).not.toMatch(/<script|src=/)
  })

  it('tells what passed of all, of none, or of those that somebody chose on Site', async () => {
    const [link] = (await site.list('/links')) as { id: number; name: string }[]
    const namesAt = async (href: string) => {
      const response = await fetch(new URL(href, site.base), { headers: { cookie: site.cookie } })
      expect(response.status).toBe(200)
      return Object.keys(unzipSync(new Uint8Array(await response.arrayBuffer())))
    }
    const passedIn = (names: string[]) => names.filter((name) => /^(passed|calls)\//.test(name))
    const href = async () => (await page.find('a[download][href*=handover]')).getAttribute('href')
    await page.go('/site')
    expect(passedIn(await namesAt((await href())!)).length).toBeGreaterThan(2)
    await page.choose('What passed, in the pack', 'With what passed at some …')
    await page.choose('Links and outlets of which it tells what passed', link!.name)
    await until(async () => (await href())?.endsWith(`?traffic=link-${link!.id}`))
    expect(passedIn(await namesAt((await href())!)).sort()).toEqual([`passed/link-${link!.id}.pcapng`, `passed/link-${link!.id}.txt`])
    await page.driver.actions().sendKeys(Key.ESCAPE).perform()
    await page.choose('What passed, in the pack', 'Without what passed')
    await until(async () => (await href())?.endsWith('?traffic=none'))
    expect(passedIn(await namesAt((await href())!))).toEqual([])
    const wrong = await fetch(`${site.base}/api/site/handover.zip?traffic=everything`, { headers: { cookie: site.cookie } })
    expect(wrong.status).toBe(422)
  })

  it('is for whoever may configure', async () => {
    expect((await fetch(`${site.base}/api/site/handover.zip`)).status).toBe(401)
  })
})

describe('a value that is wrong, while everything flows', () => {
  it('is walked from its tag to the other order of its words, and on to the door where consumers come in', async () => {
    const door = await freePort()
    const outlet = await site.api('/outlets', { name: 'Control room', kind: 'opcua-server', settings: { doors: [{ port: door }] } })
    controlRoom = (outlet as { body: { id: number } }).body.id
    const isOpen = ({ outlets }: EngineStatus) => outlets.find(({ id }) => id === controlRoom)?.flow === 'flowing'
    await until(async () => isOpen((await site.api('/status')) as EngineStatus), Boolean, 40)
    const source = { kind: 'point', linkId: link, address: 'holding/90', interval: 300, options: { order: 'ABCD' } }
    const made = await site.api('/tags', { tags: [{ path: 'berth/1/swapped', source, type: 'float32' }] })
    const [tag] = (made as { body: { id: number }[] }).body
    await page.go(`/tags?tag=${tag!.id}`)
    await page.press('Path check')
    await page.sees(/The bytes are in another order or of another type: as float32 CDAB they read/)
    await page.sees('Read it as float32 CDAB, and compare with what the device itself shows.')
    await page.sees(/Berth meters[\s\S]*3 steps, all sound/)
    await page.sees(/The break is before us/)
    await page.pressContaining('Control room')
    await page.sees('comes in as others do, and is answered')
    await page.sees('nobody is connected now')
  })

  it('is shown with the bytes that passed to whoever may configure, and without them to whoever may operate', async () => {
    const { body } = (await site.api('/people', { name: 'watch', role: 'operate' })) as { body: { password: string } }
    const operator = await signInFirst(site.base, { name: 'watch', password: body.password }, 'keeps watch over berths')
    const swapped = ((await site.list('/tags')) as { id: number; path: string }[]).find(({ path }) => path === 'berth/1/swapped')!
    const walked = async (cookie: string) =>
      (await fetch(`${site.base}/api/tags/${swapped.id}/check`, { method: 'POST', headers: { cookie } })).text()
    const bytes = /"exchange":\{"good":\[\{/
    expect(await walked(site.cookie)).toMatch(bytes)
    const seen = await walked(operator)
    expect(seen).toContain('"verdict"')
    expect(seen).not.toMatch(bytes)
  })
})

describe('a record that does not arrive', () => {
  it('is walked from the line-up to the receiver that is away, and sound again once there is one', async () => {
    const source = { kind: 'memory', start: 1 }
    await site.api('/tags', { tags: [{ path: 'quay/count', source, type: 'int32', access: 'readwrite' }] })
    const port = await freePort()
    const settings = { host: '127.0.0.1', port, patience: { connect: 500, retryFirst: 200, retryMost: 400 } }
    const broker = (await site.api('/links', { name: 'Quay broker', kind: 'mqtt', settings })) as { body: { id: number } }
    const send = [{ kind: 'topic', number: 1, linkId: broker.body.id, topic: 'quay', fields: [{ into: 'n', from: 'n' }] }]
    const when = [{ kind: 'change', tag: 'quay/count' }]
    const take = [{ name: 'n', kind: 'tag', path: 'quay/count' }]
    const bridge = (await site.api('/bridges', { name: 'Counts', when, take, send })) as { body: { id: number } }
    expect(await site.api(`/bridges/${bridge.body.id}/run`, {})).toMatchObject({ status: 200 })
    await page.go('/')
    await page.sees(/Counts[\s\S]*kept/)
    await page.go(`/bridges/${bridge.body.id}`)
    await page.press('Path check')
    await page.sees(/Nobody listens on TCP|has another port/)
    await page.sees(/Receiver\s+Port/)
    await page.sees(/What waits\s+[12] record/)
  })
})

describe('an outlet', () => {
  it('is walked from the inside out, all of its doors', async () => {
    await page.go(`/outlets/${controlRoom}`)
    await page.press('Path check')
    await page.sees(/Offered ways in\s+none at opc\.tcp/)
    await page.sees('Every step is sound.')
    await page.sees('Nobody is connected now.')
  })
})

describe('who asks at an outlet', () => {
  it('is shown call by call, with what was asked for in vain, and goes into a file', async () => {
    const { outlets } = (await site.api('/status')) as EngineStatus
    const port = Number(/:(\d+)$/.exec(outlets.find(({ id }) => id === controlRoom)!.addresses[0]!)![1])
    const client = await plainClient(port, 'Mimic panel')
    const value = await client.value('berth/1/power')
    for (let n = 0; n < 3; n++) await client.read(tagNamespace, 'berth/9/power')
    await page.go(`/outlets/${controlRoom}`)
    await page.press('Client calls')
    await page.sees(/Mimic panel\s+as anonymous/)
    await page.sees(/3 ×[\s\S]*berth\/9\/power[\s\S]*Mimic panel: BadNodeIdUnknown/)
    await page.sees('Mimic panel was refused most often: 3 times.')
    await page.type('Filter by words', 'berth/1/power')
    await page.sees(/Read\s+ns=\d+;s=berth\/1\/power = /)
    await page.sees(`berth/1/power = ${String(value)}`)
    // a row from before the words would be gone once it is opened
    await until(async () => {
      const rows = await page.texts('tr.opens')
      return rows.length > 0 && rows.every((text) => text.includes('berth/1/power'))
    })
    await page.pressAt('tr.opens button[aria-expanded]')
    await page.sees('as anonymous from 127.0.0.1')
    const csv = await (
      await fetch(`${site.base}/api/outlets/${controlRoom}/calls.csv?outcome=refused`, { headers: { cookie: site.cookie } })
    ).text()
    expect(csv.split('berth/9/power')).toHaveLength(4)
    expect(csv).not.toContain('berth/1/power')
    await page.press('Count anew…')
    await page.press('Count anew')
    await page.sees('Counted anew from now on.')
    await until(async () => !(await page.text()).includes('Asked for in vain'))
    await client.close()
  })

  it('is counted with links and bridges, and its day is drawn', async () => {
    await page.go('/journal/statistics')
    await page.choose('Of what', 'outlets')
    await page.sees(/Control room\s*outlet/)
    await page.pressBox('How the day of Control room went')
    await page.sees(/\d+ requests?, [\s\S]*the line has 95 % of the answers/)
  })
})

describe('a tag of health', () => {
  it('is made from what is there, and shows it', async () => {
    await page.go('/tags/new')
    await page.type('Path', 'health/meters/flows')
    await page.choose('Values from', 'Health')
    await page.type('The link', 'Berth meters')
    await page.press('Save tag')
    await page.sees('health/meters/flows saved')
    const [tag] = (await site.list('/tags?find=health/meters')) as { id: number; type: string }[]
    expect(tag).toMatchObject({ type: 'bool' })
    await page.go(`/tags?tag=${tag!.id}`)
    await page.sees('Health of the link Berth meters')
    await page.sees(/true · Good/)
  })
})
