import { readFileSync } from 'node:fs'
import { connect, createServer } from 'node:net'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { Link } from '#shared/links/link'
import { settingsAs, type Outlet } from '#shared/outlets/outlet'
import type { Effect, EngineStatus } from '#shared/status'
import type { Tag } from '#shared/tags'
import type { ListedWrite } from '#shared/writes'
import { plainClient } from '../support/outlet'
import { startSite, type Site } from '../support/site'
import { until } from '../support/until'
import { pointBody } from '../support/tagBodies'

/** What an application meets that is open to people, programs and strangers. */

let site: Site
let link: Link
beforeAll(async () => {
  site = await startSite({ arms: 1 })
  link = (await made('/links', { name: 'Meters', kind: 'modbus-tcp', settings: meters(11) })) as Link
  await made('/outlets', {
    name: 'SCADA',
    kind: 'opcua-server',
    settings: { doors: [{ port: site.opcuaPort }], anonymous: [{ folder: '', may: 'write' }] },
  })
})
afterAll(() => site?.stop())

const meters = (unit: number) => ({ host: '127.0.0.1', port: site.modbusPort, unit, order: 'CDAB', interval: 100 })

interface Answer {
  status: number
  body: Record<string, unknown> & { fault?: { code: string; what: string; evidence: string }; fields?: { path: string; message: string }[] }
  cookies: string
}

const call = async (method: string, path: string, body?: unknown, headers: Record<string, string> = {}): Promise<Answer> => {
  const response = await fetch(`${site.base}/api${path}`, {
    method,
    headers: { cookie: site.cookie, ...(body === undefined ? {} : { 'content-type': 'application/json' }), ...headers },
    ...(body === undefined ? {} : { body: JSON.stringify(body) }),
  })
  return { status: response.status, body: (await response.json()) as Answer['body'], cookies: response.headers.getSetCookie().join('; ') }
}
const made = async (path: string, body: object): Promise<unknown> => (await call('POST', path, body)).body
const status = () => site.api('/status') as Promise<EngineStatus>
const tagAt = (path: string, address: string, more = {}) => pointBody({ path, linkId: link.id, address, type: 'float32', ...more })
const effectOf = async (revision: unknown) => (await call('GET', `/revisions/${String(revision)}/effect`)).body as unknown as Effect

describe('a saved change', () => {
  it('tells whether and where it took effect', async () => {
    const [tag] = (await made('/tags', { tags: [tagAt('power', 'holding/40')] })) as Tag[]
    expect(await effectOf(tag!.revision)).toMatchObject({ state: 'in force', node: expect.any(String) as string, things: [] })
    expect((await call('GET', '/revisions/0/effect')).status).toBe(422)
  })

  it('cannot turn a link or an outlet into one of another kind', async () => {
    const opcua = { name: 'Meters', kind: 'opcua', settings: { address: '127.0.0.1:4851' } }
    const answer = await call('PUT', `/links/${link.id}`, { revision: link.revision, link: opcua })
    expect(answer).toMatchObject({ status: 422, body: { fault: { code: 'entry.kind' }, fields: [{ path: 'link.kind' }] } })
    await until(async () => (await status()).links[0]?.flow === 'flowing')
    expect(((await call('GET', `/links/${link.id}`)).body as unknown as Link).kind).toBe('modbus-tcp')
  })

  it('of thirty-two things at once is answered for each', async () => {
    const tags = (await made('/tags', {
      tags: Array.from({ length: 32 }, (_, i) => tagAt(`many/${i}`, `holding/${100 + 2 * i}`)),
    })) as Tag[]
    const answers = await Promise.all(
      tags.map((tag) => call('PUT', `/tags/${tag.id}`, { revision: tag.revision, tag: { ...tag, description: 'changed' } })),
    )
    expect(answers.map(({ status: code }) => code)).toEqual(tags.map(() => 200))
    await call('POST', '/tags/remove', { ids: tags.map(({ id }) => id) })
  })

  it('and a removal of the same thing at once do not both succeed', async () => {
    for (let round = 0; round < 5; round++) {
      const [tag] = (await made('/tags', { tags: [tagAt(`torn/${round}`, 'holding/40')] })) as Tag[]
      const [edited, removed] = await Promise.all([
        call('PUT', `/tags/${tag!.id}`, { revision: tag!.revision, tag: { ...tag, description: 'edited' } }),
        call('POST', '/tags/remove', { ids: [tag!.id] }),
      ])
      expect(removed.status).toBe(200)
      expect([200, 404]).toContain(edited.status)
      if (edited.status !== 200) continue
      const back = await call('POST', `/revisions/${String(removed.body.revision)}/take-back`)
      expect(back.status).toBe(200)
      expect((await call('GET', `/tags/${tag!.id}`)).body.description).toBe('edited')
      await call('POST', '/tags/remove', { ids: [tag!.id] })
    }
  })
})

describe('what is sent', () => {
  it.each([
    ['GET', '/nowhere', undefined, 404, 'entry.no-route'],
    ['PATCH', '/links', {}, 405, 'entry.no-method'],
    ['DELETE', '/status', undefined, 405, 'entry.no-method'],
    ['GET', '/tags?lnk=3', undefined, 422, 'entry.invalid'],
    ['GET', '/tags?limit=9e9', undefined, 422, 'entry.invalid'],
    ['GET', '/tags?link=99999999999', undefined, 422, 'entry.invalid'],
    ['GET', '/journal?find=%00', undefined, 422, 'entry.unstorable'],
    ['GET', '/links/99999999999', undefined, 422, 'entry.invalid'],
    ['GET', '/links/1e1', undefined, 422, 'entry.invalid'],
    ['POST', '/tags', { tags: [pointBody({ path: 'a\u0000b', linkId: 1, address: 'holding/1', type: 'int16' })] }, 422, 'entry.invalid'],
    ['POST', '/tags', { tags: [pointBody({ path: 'a', linkId: 1e12, address: 'holding/1', type: 'int16' })] }, 422, 'entry.invalid'],
    [
      'POST',
      '/tags',
      { tags: [pointBody({ path: 'a', linkId: 1, address: 'holding/1', type: 'int16', description: 'x\u0000' })] },
      422,
      'entry.invalid',
    ],
    ['POST', '/links', { name: 'left\u202Eright', kind: 'modbus-tcp', settings: { host: 'x' } }, 422, 'entry.invalid'],
    ['POST', '/links', { name: 'zero\u200Bwidth', kind: 'modbus-tcp', settings: { host: 'x' } }, 422, 'entry.invalid'],
    ['PUT', '/site', 'text', 422, 'entry.invalid'],
  ])('%s %s is refused with a %s in one form', async (method, path, body, code, why) => {
    const answer = await call(method, path, body)
    expect([answer.status, answer.body.fault?.code]).toEqual([code, why])
    expect(JSON.stringify(answer.body)).not.toMatch(/select |insert |invalid input syntax|relation/i)
  })

  it('may not be large before anybody is known, nor larger than a route needs', async () => {
    const memory = () => Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${site.pids().web!}/status`, 'utf8'))![1]) / 1024
    const before = memory()
    const answers = await Promise.all([flood('/api/session', 60), flood('/api/session', 60, true), flood('/api/tags', 60)])
    for (const answer of answers) expect(answer).toMatch(/^HTTP\/1\.1 413 /)
    expect(memory() - before).toBeLessThan(150)
  })

  /** Sends so many megabytes, told beforehand or in chunks, as fast as they are taken; returns the answer's first line. */
  const flood = (path: string, megabytes: number, chunked = false) =>
    new Promise<string>((resolve, reject) => {
      const { hostname, port } = new URL(site.base)
      const socket = connect(Number(port), hostname)
      const part = Buffer.alloc(65_536, 'x')
      const chunk = Buffer.concat([Buffer.from(`${part.length.toString(16)}\r\n`), part, Buffer.from('\r\n')])
      let left = (megabytes * 1024 * 1024) / part.length
      let heard = ''
      const send = () => {
        while (left-- > 0 && !socket.destroyed) {
          if (!socket.write(chunked ? chunk : part)) return void socket.once('drain', send)
        }
      }
      socket.on('data', (data) => (heard += data.toString()))
      socket.on('error', () => {}).on('close', () => (heard ? resolve(heard.split('\r\n')[0]!) : reject(new Error('no answer'))))
      const length = chunked ? 'transfer-encoding: chunked' : `content-length: ${megabytes * 1024 * 1024}`
      socket.write(
        `POST ${path} HTTP/1.1\r\nhost: ${hostname}:${port}\r\ncookie: ${site.cookie}\r\ncontent-type: application/json\r\n${length}\r\n\r\n`,
        send,
      )
    })
})

describe('passwords', () => {
  const attempt = (password: string, cookie = '') => call('POST', '/session', { name: site.admin.name, password }, { cookie })

  it('are guessed five at a time, however many come at once, and their owner comes in all the same', async () => {
    const first = await attempt(site.admin.password)
    const known = /conduit-known=[^;]+/.exec(first.cookies)![0]
    const guess = async (count: number, cookie?: string) => {
      const begun = Date.now()
      const answers = await Promise.all(Array.from({ length: count }, (_, i) => attempt(`guess ${i}`, cookie)))
      const checked = answers.filter(({ body }) => body.fault?.code === 'access.wrong').length
      expect(answers.filter(({ status: code }) => code === 429)).toHaveLength(count - checked)
      // the sixth after a second, the next after two more, then four
      return { checked, mayBe: 5 + Math.floor(Math.log2((Date.now() - begun) / 1000 + 1)) }
    }
    const { checked, mayBe } = await guess(200)
    expect(checked).toBeGreaterThan(0)
    expect(checked).toBeLessThanOrEqual(mayBe)
    let all = checked
    while (all < 7) all += (await guess(5)).checked
    expect((await attempt(site.admin.password)).status).toBe(429)
    expect((await attempt(site.admin.password, known)).status).toBe(200)
    const guessed = await guess(20, known)
    expect(guessed.checked).toBeLessThanOrEqual(guessed.mayBe)
  })

  it('of one’s own are not guessed faster where they are changed', async () => {
    const wrong = { present: 'not this one', next: 'another password' }
    const begun = Date.now()
    const answers = await Promise.all(Array.from({ length: 30 }, () => call('PUT', '/session/password', wrong)))
    // five are free; after them one more may come after 1 s, 2 s, 4 s, …, which a busy machine may take for these thirty
    const most = 5 + Math.floor(Math.log2((Date.now() - begun) / 1000 + 1))
    const tried = answers.filter(({ body }) => body.fault?.code === 'access.wrong').length
    expect(tried).toBeLessThanOrEqual(most)
    expect(answers.filter(({ status: code }) => code === 429).length).toBe(30 - tried)
  })

  it('that a link keeps go nowhere else', async () => {
    let heard = 0
    const foreign = createServer((socket) => void socket.on('error', () => {}).on('data', () => heard++))
    await new Promise<void>((resolve) => foreign.listen(0, '127.0.0.1', resolve))
    const { port } = foreign.address() as { port: number }
    const settings = {
      address: `127.0.0.1:${site.armPort}/arm`,
      identity: { kind: 'password', user: 'conduit', password: { plain: 'secret' } },
    }
    const arm = (await made('/links', { name: 'Arm', kind: 'opcua', on: false, settings })) as Link
    const moved = { ...arm, settings: { ...(arm.settings as object), address: `127.0.0.1:${port}` } }
    const message = [{ path: 'settings.identity.password', message: expect.stringContaining('another address') as string }]
    expect(await call('POST', '/links/check', { link: moved, linkId: arm.id })).toMatchObject({ status: 422, body: { fields: message } })
    expect(await call('PUT', `/links/${arm.id}`, { revision: arm.revision, link: moved })).toMatchObject({
      status: 422,
      body: { fields: message },
    })
    expect(heard).toBe(0)
    await new Promise((resolve) => foreign.close(resolve))
    await call('DELETE', `/links/${arm.id}`)
  })

  it('of an outlet’s guests are stored as hashes, let in who knows them, and are kept', async () => {
    const outlet = ((await call('GET', '/outlets')).body.items as Outlet[])[0]!
    const users = [{ name: 'panel', key: { kind: 'password', password: { plain: 'a panel’s own' } }, rules: [{ folder: '', may: 'read' }] }]
    const saved = await call('PUT', `/outlets/${outlet.id}`, {
      revision: outlet.revision,
      outlet: { ...outlet, settings: { ...outlet.settings, users } },
    })
    const shown = saved.body as unknown as Outlet
    expect(settingsAs('opcua-server', shown)!.users).toMatchObject([{ key: { kind: 'password', password: { kept: true } } }])
    const again = await call('PUT', `/outlets/${outlet.id}`, { revision: shown.revision, outlet: { ...shown, name: 'SCADA, renamed' } })
    expect(again.status).toBe(200)
    const kept = await until(
      () => readFileSync(`${site.folder}/last-configuration.jsonl`, 'utf8'),
      (text) => /"hashed":"\$argon2id\$/.test(text),
    )
    expect(kept).not.toContain('a panel’s own')
  })
})

describe('a write', () => {
  it('is recorded with who, what, and what came of it, whoever writes', async () => {
    const [limit] = (await made('/tags', { tags: [tagAt('limit', 'holding/90', { access: 'readwrite' })] })) as Tag[]
    await until(async () => (await status()).outlets[0]?.flow === 'flowing')
    expect((await call('PUT', `/tags/${limit!.id}/value`, { value: 1810 })).body).toEqual({ readBack: 1810 })
    const client = await plainClient(site.opcuaPort, 'Control room')
    await until(async () => (await client.value('limit')) === 1810)
    expect(await client.write('urn:keen-conduit:tags', 'limit', 1820, 10)).toBe('Good')
    await client.close()
    const writes = await until(
      async () => (await call('GET', `/writes?tag=${limit!.id}`)).body.items as ListedWrite[],
      (list) => list.length === 2,
    )
    expect(writes).toMatchObject([
      { who: 'Control room, as anonymous', via: 'client', path: 'limit', before: '1810', value: '1820', ok: true },
      { who: site.admin.name, via: 'page', path: 'limit', value: '1810', ok: true },
    ])
  })
})

describe('an engine that hangs', () => {
  it('is told at once, does not hold up answers, and is brought back with the reason in the journal', async () => {
    const before = site.pids().engine!
    process.kill(before, 'SIGSTOP')
    const started = Date.now()
    const answer = await call('GET', '/status')
    expect(Date.now() - started).toBeLessThan(2000)
    expect([answer.status, answer.body.fault?.code]).toEqual([503, 'engine.away'])
    await until(async () => !(await call('GET', '/health')).body.engine, Boolean, 8)
    await until(
      () => site.pids().engine,
      (pid) => pid !== undefined && pid !== before,
      40,
    )
    await until(async () => (await call('GET', '/health')).body.engine === true, Boolean, 20)
    await until(
      async () => ((await call('GET', '/journal?find=Brought')).body.items as { text: string }[])[0]?.text.includes('hung') ?? false,
    )
    await until(async () => (await status()).goodTags > 0)
  }, 90_000)
})
