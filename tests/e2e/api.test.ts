import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { WebSocket } from 'ws'
import { makeSelfSigned } from '#security/selfSigned'
import { isFile } from '#shared/api/operation'
import { operations } from '#shared/api/registry'
import type { Link } from '#shared/links/link'
import type { TagNote } from '#shared/notes'
import type { LiveMessage } from '#shared/rpc'
import type { CheckStep, EngineStatus } from '#shared/status'
import type { LiveValue, ValueOrigin } from '#shared/values'
import type { Tag } from '#shared/tags'
import type { Described } from '../support/described'
import { callWebApis } from '../support/webApiCalls'
import { callBridges } from '../support/bridgeCalls'
import { callPlant } from '../support/plantCalls'
import { callDesk } from '../support/deskCalls'
import { describedCalls } from '../support/describedCalls'
import { callAboutCalls, callDiagnosis } from '../support/diagnosisCalls'
import { startSite, type Site } from '../support/site'
import { until } from '../support/until'
import { pointBody } from '../support/tagBodies'
import { freePort } from '../../launcher/ports.mjs'

/** The HTTP API and the live websocket, as a program uses them. */

let site: Site
let link: Link
/** Every answer that this file gets is held against what the API says of itself. */
let described: Described | null = null
let call: Awaited<ReturnType<typeof describedCalls>>['call']
beforeAll(async () => {
  site = await startSite({ arms: 1 })
  ;({ described, call } = await describedCalls(site))
  link = (
    await call('POST', '/links', {
      name: 'Meters',
      kind: 'modbus-tcp',
      settings: { host: '127.0.0.1', port: site.modbusPort, unit: 11, order: 'CDAB', interval: 100 },
    })
  ).body as unknown as Link
})
afterAll(() => site?.stop())

const tagAt = (path: string, address: string, more = {}) => pointBody({ path, linkId: link.id, address, type: 'float32', ...more })
const makeTags = async (...tags: object[]) => (await call('POST', '/tags', { tags })).body as unknown as Tag[]

describe('answers', () => {
  it('say that everything is there', async () => {
    expect((await call('GET', '/health')).body).toMatchObject({ status: 'pass', engine: true, database: true })
  })

  it.each([
    ['GET', '/links/999', undefined, 404, 'entry.gone'],
    ['GET', '/links/abc', undefined, 422, 'entry.invalid'],
    ['GET', '/tags/999', undefined, 404, 'entry.gone'],
    ['DELETE', '/outlets/999', undefined, 404, 'entry.gone'],
    ['POST', '/links', '{"name":', 422, 'entry.unreadable'],
    ['POST', '/links', { name: 'x' }, 422, 'entry.invalid'],
    ['POST', '/tags', { tags: [] }, 422, 'entry.invalid'],
    ['GET', '/tags?limit=100000', undefined, 422, 'entry.invalid'],
    ['POST', '/revisions/999/take-back', undefined, 409, 'entry.cannot-take-back'],
    ['PUT', '/tags/999/value', { value: 1 }, 422, undefined],
    ['PUT', '/site', { name: '' }, 422, 'entry.invalid'],
  ])('%s %s is refused in one form', async (method, path, body, status, code) => {
    const answer = await call(method, path, body)
    expect(answer.status).toBe(path.endsWith('/value') ? 404 : status)
    if (code) expect(answer.body.fault!.code).toBe(code)
    expect(answer.body.fault!.next.length).toBeGreaterThan(5)
  })

  it('do not come to pages of others', async () => {
    const foreign = await call('POST', '/links', { name: 'x' }, { origin: 'http://evil.example' })
    expect(foreign).toMatchObject({ status: 403, body: { fault: { code: 'entry.cross-site' } } })
    const own = await call('PUT', '/site', { name: 'Harrow Sound' }, { origin: site.base })
    expect(own.status).toBe(200)
  })

  it('carry a content security policy that lets only our scripts run', async () => {
    const response = await fetch(site.base)
    const policy = response.headers.get('content-security-policy')!
    expect(policy).toMatch(/script-src 'self' 'sha256-/)
    expect(policy).not.toMatch(/script-src[^;]*unsafe/)
    expect(await response.text()).not.toMatch(/https?:\/\/(?!www\.w3\.org)/)
  })
})

describe('links', () => {
  it('are checked step by step, each as it happens', async () => {
    const response = await fetch(`${site.base}/api/links/check`, {
      method: 'POST',
      body: JSON.stringify({ link }),
      headers: { 'content-type': 'application/json', cookie: site.cookie },
    })
    expect(response.headers.get('content-type')).toBe('application/x-ndjson')
    const steps = (await response.text())
      .trim()
      .split('\n')
      .map((line) => JSON.parse(line) as CheckStep)
    expect(steps.map(({ step, flow }) => `${step} ${flow}`)).toEqual([
      'name waiting',
      'name flowing',
      'port waiting',
      'port flowing',
      'reply waiting',
      'reply flowing',
    ])
  })

  it('are not saved over what somebody else saved meanwhile', async () => {
    const draft = { name: link.name, kind: link.kind, on: true, settings: link.settings }
    const mine = await call('PUT', `/links/${link.id}`, {
      revision: link.revision,
      link: { ...draft, settings: { ...link.settings, interval: 120 } },
    })
    expect(mine.status).toBe(200)
    const late = await call('PUT', `/links/${link.id}`, { revision: link.revision, link: { ...draft, name: 'Late' } })
    expect(late).toMatchObject({ status: 409, body: { fault: { code: 'entry.edited' }, current: { settings: { interval: 120 } } } })
    expect(((await call('GET', `/links/${link.id}`)).body as unknown as Link).name).toBe('Meters')
    link = mine.body as unknown as Link
  })

  it('stay while tags read through them, unless the tags are to go as well', async () => {
    const { body } = await call('POST', '/links', { name: 'Spare', kind: 'modbus-tcp', settings: { host: 'nowhere.invalid' } })
    const spare = body as unknown as Link
    await makeTags(tagAt('spare/a', 'holding/1', { linkId: spare.id }))
    expect(await call('DELETE', `/links/${spare.id}`)).toMatchObject({ status: 409, body: { fault: { code: 'entry.in-use' } } })
    const removed = await call('DELETE', `/links/${spare.id}?tags=remove`)
    expect(removed.status).toBe(200)
    expect((await call('GET', '/tags?below=spare')).body.total).toBe(0)
    expect((await call('POST', `/revisions/${String(removed.body.revision)}/take-back`)).status).toBe(200)
    expect((await call('GET', '/tags?below=spare')).body.total).toBe(1)
    await call('DELETE', `/links/${spare.id}?tags=remove`)
  })
})

describe('tags', () => {
  it('are made all or none, with every problem named', async () => {
    const before = (await call('GET', '/tags')).body.total
    const answer = await call('POST', '/tags', {
      tags: [tagAt('ok', '40041'), tagAt('bad', 'holding/65535'), tagAt('ok', '40043'), tagAt('lost', '40045', { linkId: 999 })],
    })
    expect(answer.status).toBe(422)
    expect(answer.body.fields!.map(({ path }) => path).sort()).toEqual(['tags.1.source.address', 'tags.2.path', 'tags.3.source.linkId'])
    expect((await call('GET', '/tags')).body.total).toBe(before)
  })

  it('come by the page, filtered, with notes on overlapping addresses', async () => {
    await makeTags(
      tagAt('berth/1/voltage', 'holding/60', { type: 'uint32', options: { order: 'ABCD' } }),
      tagAt('berth/1/voltage_wrong', 'holding/61', { type: 'uint32', description: '100%_sure' }),
      tagAt('berth/2/active_power', '12:holding/40'),
    )
    const page = async (query: string) =>
      (await call('GET', `/tags?${query}`)).body as unknown as { total: number; items: Tag[]; notes: Record<string, TagNote[]> }
    expect((await page('below=berth/1')).items.map(({ path }) => path)).toEqual(['berth/1/voltage', 'berth/1/voltage_wrong'])
    expect((await page('find=100%25_s')).items.map(({ path }) => path)).toEqual(['berth/1/voltage_wrong'])
    expect((await page('find=%25')).total).toBe(1)
    expect((await page('limit=1&offset=1')).items).toHaveLength(1)
    const texts = (notes: Record<string, TagNote[]>) => Object.values(notes).map(([first]) => first!.text)
    const overlaps = ['overlaps berth/1/voltage_wrong by 1 word', 'overlaps berth/1/voltage by 1 word']
    const ids = (await page('below=berth/1')).items.map(({ id }) => id)
    expect(texts((await call('POST', '/notes/tags', { ids })).body as never)).toEqual(overlaps)
    // what was waited for is there at once from now on
    expect(texts((await page('below=berth/1')).notes)).toEqual(overlaps)
  })

  it('are tried before they are made', async () => {
    const { path: _, ...point } = tagAt('', 'holding/40') as ReturnType<typeof tagAt> & { path?: string }
    const answer = await call('POST', '/tags/try', { tag: point })
    const origin = answer.body as unknown as ValueOrigin
    expect(origin.fault).toBeNull()
    expect(origin.readings.find(({ inUse }) => inUse)?.label).toBe('float32 CDAB')
    expect(await call('POST', '/tags/try', { tag: { ...tagAt('', 'coil/99999'), path: undefined } })).toMatchObject({
      status: 422,
      body: { fields: [{ path: 'source.address' }] },
    })
    expect(
      ((await call('POST', '/tags/try', { tag: { ...tagAt('', 'holding/46'), path: undefined } })).body as unknown as ValueOrigin).fault,
    ).toMatchObject({ code: 'modbus.exception' })
  })

  it('are written, and refuse what does not fit, with the reason', async () => {
    const [limit, power] = await makeTags(tagAt('w/limit', 'holding/90', { access: 'readwrite' }), tagAt('w/power', 'holding/40'))
    await until(async () => ((await call('GET', '/status')).body as unknown as EngineStatus).goodTags >= 2)
    const write = (tag: Tag, value: unknown) => call('PUT', `/tags/${tag.id}/value`, { value })
    await until(
      async () => (await write(limit!, 1234.5)).status,
      (status) => status === 200,
    )
    expect(await site.channel(11, 'trip_limit')).toBe(1234.5)
    expect((await write(limit!, '1300')).body.readBack).toBe(1300)
    expect(await write(limit!, 'much')).toMatchObject({ status: 422, body: { fault: { code: 'write.value', side: 'entry' } } })
    expect(await write(power!, 1)).toMatchObject({ status: 422, body: { fault: { code: 'write.not-writable' } } })
    await site.setFault(11, 'silence')
    expect(await write(limit!, 5)).toMatchObject({ status: 422, body: { fault: { side: 'device' } } })
    await site.setFault(11, null)
  })
})

describe('outlets', () => {
  it('do not share a port', async () => {
    const make = (name: string) => call('POST', '/outlets', { name, kind: 'opcua-server', settings: { doors: [{ port: site.opcuaPort }] } })
    expect((await make('First')).status).toBe(200)
    expect(await make('Second')).toMatchObject({
      status: 422,
      body: { fields: [{ path: 'settings.doors.0.port', message: `Port ${site.opcuaPort} belongs to the outlet “First”.` }] },
    })
  })
})

describe('the journal and the revisions', () => {
  it('tell what happened and who did it', async () => {
    await until(async () =>
      ((await call('GET', '/journal?find=METERS%20switched')).body.items as { text: string }[]).some(({ text }) => text === 'Switched on.'),
    )
    expect((await call('GET', '/journal?severity=trouble')).body).toEqual({ total: 0, offset: 0, items: [] })
    const revisions = (await call('GET', '/revisions?limit=3')).body.items as { number: number; who: string; what: string }[]
    expect(revisions).toHaveLength(3)
    expect(revisions[0]!.number).toBe(revisions[1]!.number + 1)
    expect(revisions[0]!.what).toBe('Made outlet “First”')
  })
})

describe('every operation', () => {
  const made = async (path: string, body: unknown) => (await call('POST', path, body)).body as unknown as { id: number; revision: number }

  it('answers as the API says of itself', async () => {
    const settings = { address: `127.0.0.1:${site.armPort}` }
    const arm = { name: 'Arm', kind: 'opcua', settings }
    const { id } = await made('/links', arm)
    await until(async () => (await call('POST', `/links/${id}/browse`, {})).status === 200, Boolean, 30)
    await call('POST', `/links/${id}/details`, { places: [{ address: 'i=2258' }] })
    await call('POST', `/links/${id}/search`, { text: 'boom' })
    await call('POST', `/links/${id}/branch`, { address: 'i=85' })
    await call('POST', '/links/find', { link: arm })
    await call('POST', '/links/check', { link: arm, linkId: id })
    await callWebApis(call, site.base)
    await callDiagnosis(call, id)
    const broker = await made('/outlets', { name: 'Messages', kind: 'mqtt-broker', settings: { doors: [{ port: await freePort() }] } })
    await callAboutCalls(call, broker.id)
    await call('DELETE', `/outlets/${broker.id}`)
    const shown = (await call('GET', `/links/${id}`)).body as unknown as Link
    await call('PUT', `/links/${id}`, { revision: shown.revision, link: { ...arm, on: false } })
    await call('GET', '/links?find=arm+opcua&sort=-revision')
    const point = { path: 'described/point', source: { kind: 'point', linkId: id, address: 'i=2258' }, type: 'datetime' }
    expect((await call('POST', `/links/${id}/load`, { link: arm, tags: [{ id: null, tag: point }] })).body).toMatchObject({
      now: { parts: [] },
      then: { parts: [{ rounds: [{ tags: 1 }] }] },
    })
    await call('POST', '/notes/preview', { tag: point })
    await call('POST', '/notes/tags', { ids: [1] })
    await call('GET', '/notes?kind=overlap')

    const [tag] = await makeTags({ path: 'described/kept', source: { kind: 'memory', start: 1 }, type: 'int32', access: 'readwrite' })
    await call('PUT', '/tags/cells', { edits: [{ id: tag!.id, revision: tag!.revision, cells: { unit: 'MW' } }] })
    await call('POST', '/tags/move', { from: 'described/kept', to: 'described/so' })
    await call('POST', '/tags/copy', { from: 'described', to: 'copied' })
    await call('POST', '/tags/move', { from: 'described', to: 'told' })
    await call('POST', '/tags/move', { from: 'told/so', to: 'described/kept' })
    await call('POST', '/notes/accept', { notes: [{ id: tag!.id, key: 'range' }], reason: 'as the maker says' })
    Object.assign(tag!, (await call('GET', `/tags/${tag!.id}`)).body)
    await call('POST', '/tags/known', { linkId: id, points: [{ address: 'i=2258' }], paths: ['described/kept'] })
    await call('PUT', `/tags/${tag!.id}`, { revision: tag!.revision, tag: { ...tag, unit: 'kW' } })
    await until(async () => (await call('PUT', `/tags/${tag!.id}/value`, { value: 5 })).status === 200)
    for (const path of [`/tags/${tag!.id}`, '/tags/folders', '/tags/inside?below=described', '/tags/summary']) await call('GET', path)
    await until(async () => ((await call('GET', `/writes?tag=${tag!.id}`)).body.total as number) > 0)

    const table = (await call('POST', '/imports?name=described.csv', 'path,unit\ndescribed/kept,MW\n')).body as unknown as { id: number }
    expect((await call('GET', `/imports/${table.id}?wait=5000`)).body.counts).toMatchObject({ changed: 1 })
    await call('GET', `/imports/${table.id}/lines`)
    await call('GET', `/imports/${table.id}/load`)
    await call('GET', '/imports')
    await call('PUT', `/imports/${table.id}`, { missing: 'stay' })
    await call('GET', `/imports/${table.id}?wait=5000`)
    await call('POST', `/imports/${table.id}/apply`, {})
    const applied = (await call('GET', `/imports/${table.id}?wait=5000`)).body.revision as number
    await call('DELETE', `/imports/${table.id}`)
    await call('GET', '/tags/table.csv?columns=path,unit')
    await call('GET', '/site/text.yaml?only=tags')
    await call('PUT', '/site/keeping', { days: 4000, most: null })
    expect((await call('GET', `/revisions/${applied}/changes`)).body.items).toEqual([
      { subject: 'tag', id: tag!.id, name: 'described/kept', what: 'changed', fields: [{ field: 'unit', before: 'kW', after: 'MW' }] },
    ])
    await call('PUT', `/revisions/${applied}`, { comment: 'as the maker says' })
    await call('POST', `/revisions/${applied - 1}/return`)
    await call('POST', '/revisions/take-back', { numbers: [applied + 1] })

    const doors = [{ port: site.opcuaPort }]
    const [outlet] = (await call('GET', '/outlets')).body.items as { id: number; revision: number }[]
    const at = `/outlets/${outlet!.id}`
    await call('PUT', at, {
      revision: outlet!.revision,
      outlet: { name: 'First', kind: 'opcua-server', settings: { doors, shortNames: { on: true } } },
    })
    for (const part of ['checks', 'traffic']) await until(async () => (await call('GET', `${at}/${part}`)).status === 200)
    await call('POST', `${at}/check`, { entry: 0 })
    await call('POST', `${at}/disconnect`, { client: 'nobody' })
    for (const path of [at, `${at}/names?find=kept`, `${at}/names.csv`, '/site', '/openapi.json', '/health', '/status'])
      await call('GET', path)

    await callDesk(call, { linkId: link.id, tagId: tag!.id, point: { address: '11:holding/90', type: 'float32' } })

    await callBridges(call, site.databaseUrl)
    await callPlant(call, site)

    const own = (await call('GET', '/certificates/own')).body as unknown as { pem: string }
    const certificate = await made('/certificates', { der: own.pem.replace(/-----[^-]+-----|\s/g, ''), verdict: 'trusted' })
    await call('GET', '/certificates')
    const revision = (await call('DELETE', `/certificates/${certificate.id}`)).body.revision as number
    await call('GET', `/revisions/${revision}/effect`)
    await call('POST', `/revisions/${revision}/take-back`)
    await call('POST', '/try-again')
    expect((await call('PUT', '/site/folders', { folders: ['exchange'] })).body).toMatchObject({ fault: { code: 'entry.invalid' } })
    expect((await call('PUT', '/site/folders', { folders: ['/srv/exchange'] })).body).toEqual({ folders: ['/srv/exchange'] })
    expect((await call('GET', '/site')).body).toMatchObject({ folders: ['/srv/exchange'] })
    await call('PUT', '/site/folders', { folders: [] })
    await call('PUT', '/site', { name: 'Described' })

    const { person } = (await call('POST', '/people', { name: 'Crane hand', role: 'look' })).body as unknown as { person: { id: number } }
    await call('PUT', `/people/${person.id}`, { role: 'operate', on: true })
    await call('POST', `/people/${person.id}/password`)
    await call('GET', '/people?sort=-role')
    await call('DELETE', `/people/${person.id}`)
    const { shown: token } = (await call('POST', '/tokens', { name: 'Report', role: 'look', days: 1 })).body as unknown as {
      shown: { id: number }
    }
    await call('GET', '/tokens')
    await call('DELETE', `/tokens/${token.id}`)

    await call('POST', '/certificates/own')
    const pair = await makeSelfSigned({
      commonName: 'Another',
      organization: 'Harrow Sound',
      applicationUri: 'urn:another',
      dns: ['localhost'],
      ip: [],
    })
    await call('PUT', '/certificates/own', pair)
    await call('POST', '/tags/remove', { ids: [tag!.id] })
    await call('DELETE', at)
    await call('DELETE', `/links/${id}?tags=remove`)
    await call('GET', '/session')
    const again = { present: site.admin.password, next: `${site.admin.password} and longer` }
    await call('PUT', '/session/password', again)
    await call('POST', '/session', { name: site.admin.name, password: again.next })
    await call('DELETE', '/session', undefined, { cookie: '' })
    // only an empty site takes the case of another: case.test.ts
    // a case has a site of its own, and so has one of several machines
    expect(described!.unanswered.filter((operation) => !/ \/site\/(case|database)$|\/lead$/.test(operation))).toEqual([])
  })

  it('refuses as the API says: strangers, the wrong kind of body, and what is not there', async () => {
    for (const [, { method, path, needs, body }] of operations) {
      const address = path.replace(/\{\w+\}/g, '999999')
      if (needs !== 'anyone') expect((await call(method, address, undefined, { cookie: '' })).status, path).toBe(401)
      if (body && !isFile(body)) expect((await call(method, address, '[')).status, path).toBe(422)
      if (method === 'GET' && path.endsWith('{id}')) expect((await call(method, path.replace('{id}', 'x'))).status, path).toBe(422)
    }
  })
})

describe('the live websocket', () => {
  const openLive = async (headers: Record<string, string> = {}) => {
    const socket = new WebSocket(`${site.base.replace('http', 'ws')}/live`, { headers: { cookie: site.cookie, ...headers } })
    const heard: { at: number; message: LiveMessage }[] = []
    socket.on('message', (data: Buffer) => heard.push({ at: Date.now(), message: JSON.parse(data.toString()) as LiveMessage }))
    await new Promise((resolve, reject) => socket.once('open', resolve).once('error', reject))
    const say = (message: object) => socket.send(JSON.stringify(message))
    const batches = () =>
      heard.filter(({ message }) => message.say === 'values') as { at: number; message: { batch: number; values: LiveValue[] } }[]
    return { socket, heard, say, batches }
  }

  it('sends only what is watched, at most ten times a second, and not before the last was taken', async () => {
    const tags = ((await call('GET', '/tags?find=w/')).body as unknown as { items: Tag[] }).items
    const { socket, say, batches } = await openLive()
    say({ say: 'watch', tags: [tags[0]!.id] })
    await until(() => batches().length === 1)
    await new Promise((resolve) => setTimeout(resolve, 1300))
    expect(batches()).toHaveLength(1)
    for (let taken = 1; taken <= 3; taken++) {
      say({ say: 'taken', batch: batches().at(-1)!.message.batch })
      await until(() => batches().length === taken + 1)
    }
    expect(batches().every(({ message }) => message.values.every(({ id }) => id === tags[0]!.id))).toBe(true)
    socket.close()
  })

  it('tells of changes of the configuration, whoever makes them', async () => {
    const { socket, heard } = await openLive()
    await until(() => heard.some(({ message }) => message.say === 'status'))
    const [made] = await makeTags(tagAt('changed/now', 'holding/44'))
    await until(() => heard.some(({ message }) => message.say === 'changed' && message.revision === made!.revision))
    socket.close()
  })

  it('shrugs at nonsense and goes on', async () => {
    const { socket, heard, say } = await openLive()
    socket.send('{')
    say({ say: 'sing' })
    say({ say: 'watch', tags: ['x'] })
    const before = heard.length
    await until(() => heard.length > before)
    expect(socket.readyState).toBe(WebSocket.OPEN)
    socket.close()
  })

  it('is closed to pages of others', async () => {
    await expect(openLive({ origin: 'http://evil.example' })).rejects.toThrow(/403/)
  })
})

describe('the engine’s door', () => {
  it('stays shut without the secret', async () => {
    const socket = new WebSocket(`ws://127.0.0.1:${site.rpcPort}`, { headers: { authorization: 'Bearer guess' } })
    await expect(new Promise((resolve, reject) => socket.once('open', resolve).once('error', reject))).rejects.toThrow(/401/)
  })
})
