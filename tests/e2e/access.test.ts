import { readdirSync } from 'node:fs'
import { join, relative } from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { WebSocket } from 'ws'
import { roles, type Role } from '#core/access/roles'
import type { ApiToken, Person } from '#shared/people'
import { openBrowser, type Browser } from '../support/browser'
import { needed } from '../support/neededRoles'
import { signInTo } from '../support/signIn'
import { startSite, type Site } from '../support/site'
import { until } from '../support/until'

/** Who may come in, and who may do what: every route, with every role. */

let site: Site
let page: Browser
const cookies = new Map<Role, string>()

interface Answer {
  status: number
  code: string | undefined
  body: Record<string, unknown>
}

const call = async (
  method: string,
  path: string,
  cookie: string | null,
  body?: unknown,
  headers: Record<string, string> = {},
): Promise<Answer> => {
  const response = await fetch(`${site.base}/api${path}`, {
    method,
    headers: { ...(cookie ? { cookie } : {}), ...(body === undefined ? {} : { 'content-type': 'application/json' }), ...headers },
    ...(body === undefined ? {} : { body: JSON.stringify(body) }),
  })
  const answer = (await response.json().catch(() => ({}))) as Record<string, unknown>
  return { status: response.status, code: (answer.fault as { code?: string } | undefined)?.code, body: answer }
}

/** Lets somebody in and goes the way of a first sign-in. */
const letIn = async (name: string, role: Role): Promise<string> => {
  const { body } = await call('POST', '/people', site.cookie, { name, role })
  const cookie = await signInTo(site.base, name, body.password as string)
  await call('PUT', '/session/password', cookie, { present: body.password, next: `the password of ${name}` })
  return cookie
}

beforeAll(async () => {
  site = await startSite()
  for (const role of roles) cookies.set(role, await letIn(`one to ${role}`, role))
  page = await openBrowser(site.base)
})
afterAll(async () => {
  await page?.close()
  await site?.stop()
})

const folder = join(import.meta.dirname, '../../server/api')

/** The routes as the files name them. */
const routes = () =>
  readdirSync(folder, { recursive: true, encoding: 'utf8' })
    .filter((file) => file.endsWith('.ts') && !file.startsWith('[...'))
    .map((file) => {
      const match = /^(.*?)(?:\/index)?\.(get|post|put|delete)\.ts$/.exec(relative('.', file))!
      return { method: match[2]!.toUpperCase(), path: `/${match[1]!.replace(/^index$/, '').replace(/\[\w+\]/g, '999999')}` }
    })
    .sort((a, b) => `${a.path} ${a.method}`.localeCompare(`${b.path} ${b.method}`))

/** Signing in or out here would change who the walk is. */
const ownSession = /\/session/

describe('every route', () => {
  it('is in the table of what it takes, and the table has no others', () => {
    expect(
      routes()
        .map(({ method, path }) => `${method} ${path}`)
        .sort(),
    ).toEqual(Object.keys(needed).sort())
  })

  it('is closed to strangers, unless it is for anyone', async () => {
    for (const { method, path } of routes().filter(({ path }) => !ownSession.test(path))) {
      const answer = await call(method, path, null, method === 'GET' ? undefined : {})
      const isOpen = needed[`${method} ${path}`] === 'anyone'
      if (isOpen) expect(answer.code ?? '', `${method} ${path}`).not.toMatch(/^access\./)
      else expect([answer.status, answer.code], `${method} ${path}`).toEqual([401, 'access.sign-in'])
    }
  })

  it.each(roles)('lets those who may %s do that and no more', async (role) => {
    for (const { method, path } of routes().filter(({ path }) => !ownSession.test(path) && path !== '/certificates/own')) {
      const least = needed[`${method} ${path}`]!
      const may = least === 'anyone' || roles.indexOf(role) >= roles.indexOf(least)
      const { code, status } = await call(method, path, cookies.get(role)!, method === 'GET' ? undefined : { wrong: true })
      if (may) expect(code?.startsWith('access.') ?? false, `${method} ${path} ${code}`).toBe(false)
      else expect([status, code], `${method} ${path}`).toEqual([403, 'access.refused'])
    }
  })

  it('so is the live connection', async () => {
    const opens = (headers: Record<string, string>) =>
      new Promise<boolean>((resolve) => {
        const socket = new WebSocket(`${site.base.replace('http', 'ws')}/live`, { headers })
        socket.once('open', () => {
          socket.close()
          resolve(true)
        })
        socket.once('error', () => resolve(false))
      })
    expect(await opens({})).toBe(false)
    expect(await opens({ cookie: 'conduit-session=guess' })).toBe(false)
    expect(await opens({ cookie: cookies.get('look')! })).toBe(true)
  })
})

describe('signing in', () => {
  it('takes name and password, tells nothing about which was wrong, and slows down whoever guesses', async () => {
    const attempt = (name: string, password: string) => call('POST', '/session', null, { name, password })
    const unknown = await attempt('nobody here', 'x')
    const known = await attempt('one to look', 'x')
    expect([unknown.status, unknown.body]).toEqual([known.status, known.body])
    expect(known.code).toBe('access.wrong')
    let last = known
    for (let i = 0; i < 8 && last.code === 'access.wrong'; i++) last = await attempt('one to look', 'x')
    expect([last.status, last.code]).toEqual([429, 'access.wait'])
    expect((await attempt('one to look', 'the password of one to look')).code).toBe('access.wait')
  })

  it('gives a cookie that scripts and other sites do not get', async () => {
    const response = await fetch(`${site.base}/api/session`, {
      method: 'POST',
      body: JSON.stringify({ name: site.admin.name, password: site.admin.password }),
      headers: { 'content-type': 'application/json', origin: 'http://evil.example' },
    })
    expect(response.status).toBe(403)
    expect(response.headers.get('set-cookie')).toBeNull()
  })

  it('with a password for once opens nothing but the choice of one’s own', async () => {
    const { body } = await call('POST', '/people', site.cookie, { name: 'Newcomer', role: 'configure' })
    const password = body.password as string
    expect(password).toMatch(/^[a-z2-9]{4}(-[a-z2-9]{4}){3}$/)
    // the address of all tests may have been slowed down by the guesses above
    const { person } = body as unknown as { person: Person }
    expect(person).toMatchObject({ name: 'Newcomer', role: 'configure', mustChange: true })
    expect(JSON.stringify(await call('GET', '/people', site.cookie))).not.toContain('argon2')
  })
})

describe('people and tokens', () => {
  const people = async () => (await call('GET', '/people', site.cookie)).body.items as Person[]

  it('whoever is shut out is out at once, and a new role counts at once', async () => {
    const all = await people()
    const operator = all.find(({ name }) => name === 'one to operate')!
    const cookie = cookies.get('operate')!
    expect((await call('PUT', '/site', cookie, { name: 'x' })).code).toBe('access.refused')
    await call('PUT', `/people/${operator.id}`, site.cookie, { role: 'configure', on: true })
    expect((await call('PUT', '/site', cookie, { name: 'Named by another' })).status).toBe(200)
    await call('PUT', `/people/${operator.id}`, site.cookie, { role: 'operate', on: false })
    expect((await call('GET', '/site', cookie)).code).toBe('access.sign-in')
  })

  it('somebody always administers', async () => {
    const all = await people()
    for (const person of all.filter(({ role, name }) => role === 'administer' && name !== site.admin.name))
      await call('DELETE', `/people/${person.id}`, site.cookie)
    const admin = all.find(({ name }) => name === site.admin.name)!
    expect((await call('DELETE', `/people/${admin.id}`, site.cookie)).code).toBe('access.last-administrator')
    expect((await call('PUT', `/people/${admin.id}`, site.cookie, { role: 'look', on: true })).code).toBe('access.last-administrator')
  })

  it('a token opens what its role allows, until it is taken back', async () => {
    const { body } = await call('POST', '/tokens', site.cookie, { name: 'Reports', role: 'look', days: 30 })
    const { token, shown } = body as unknown as { token: string; shown: ApiToken }
    const bearer = { authorization: `Bearer ${token}` }
    expect((await call('GET', '/links', null, undefined, bearer)).status).toBe(200)
    expect((await call('POST', '/links', null, {}, bearer)).code).toBe('access.refused')
    expect(JSON.stringify(await call('GET', '/tokens', site.cookie))).not.toContain(token)
    await call('DELETE', `/tokens/${shown.id}`, site.cookie)
    expect((await call('GET', '/links', null, undefined, bearer)).code).toBe('access.sign-in')
  })

  it('everything is recorded with who and when', async () => {
    const revisions = (await call('GET', '/revisions', site.cookie)).body.items as { who: string; what: string }[]
    expect(revisions.map(({ who, what }) => `${who}: ${what}`)).toEqual(
      expect.arrayContaining([
        'admin: Shut “one to operate” out',
        'one to operate: Named the site “Named by another”',
        'admin: Took back the token “Reports”',
      ]),
    )
  })
})

describe('the pages', () => {
  it('show strangers the sign-in, and lead on to where they wanted to go', async () => {
    await page.go('/site/people')
    await page.sees('Sign in')
    expect(await page.text()).not.toContain('Line-up')
    await page.driver.manage().addCookie({ name: 'conduit-session', value: cookies.get('look')!.split('=')[1]! })
    await page.go('/links')
    await page.sees('one to look')
  })

  it('offer nobody what they may not do', async () => {
    await page.sees('No link yet')
    expect(await page.text()).not.toContain('New link')
    await page.go('/site')
    await page.sees('Certificates')
    expect(await page.text()).not.toContain('People')
  })

  it('show the API, find an operation, and try it with one’s own session', async () => {
    await page.go('/site/api')
    await page.sees('Makes a link.')
    await page.sees(`${site.base}/api/openapi.json`)
    await page.type('Filter operations', 'newest revision')
    await until(page.text, (seen) => !seen.includes('Makes a link.') && seen.includes('/site'))
    await page.pressContaining('/site')
    await page.press('Try it out')
    await page.press('Execute')
    await page.sees('"name": "Named by another"')
    await page.go('/site')
  })

  it('sign out', async () => {
    await page.press('one to look')
    await page.press('Sign out')
    await page.sees('Password')
    expect((await call('GET', '/site', cookies.get('look')!)).code).toBe('access.sign-in')
  })
})
