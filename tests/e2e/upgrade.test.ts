import { spawnSync } from 'node:child_process'
import { chmodSync, existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { changeConfiguration } from '#db/configuration'
import { connect } from '#db/connect'
import { migrate } from '#db/migrate'
import type { EngineStatus } from '#shared/status'
import type { UpkeepState } from '#shared/upkeep'
import { freePort } from '../../launcher/ports.mjs'
import { ask, runProgram, withDatabase } from '../../launcher/siteDatabase.mjs'
import { openBrowser, type Browser } from '../support/browser'
import { asked } from '../support/askedAgain'
import { linkTo, powerTag } from '../support/engineOn'
import { signInFirst } from '../support/signIn'
import { until } from '../support/until'

/** A site of an earlier version: brought to this one, and back. Each test goes on where the last one ended. */

const folder = mkdtempSync(join(tmpdir(), 'conduit-upgrade-'))
const site = join(folder, 'site')
const earlier = '028-nodes'
let port = 0

const conduit = (...args: string[]) => {
  const env = { ...process.env, CONDUIT_STATE: folder, CONDUIT_PORT: String(port), CONDUIT_BACKUP_PASSPHRASE: 'quay wall at low tide' }
  const { status, stdout, stderr } = spawnSync(process.execPath, ['launcher/main.mjs', ...args], { env, encoding: 'utf8' })
  return { status, told: stdout + stderr }
}
const query = (text: string) => withDatabase(site, (url) => Promise.resolve(ask(url, text)))
const steps = () => query('select max(name) from kysely_migration')
const before = () => (existsSync(join(site, 'before')) ? readdirSync(join(site, 'before')) : [])

let cookie = ''
const signIn = async (told: string) => {
  const password = /password\s+(\S+)/.exec(told)?.[1]
  if (password) cookie = await signInFirst(`http://127.0.0.1:${port}`, { name: 'admin', password }, 'a password for tests')
}
const api = async <T>(path: string, method = 'GET', body?: object): Promise<T> =>
  (
    await asked(`http://127.0.0.1:${port}/api${path}`, {
      method,
      headers: { cookie, 'content-type': 'application/json' },
      ...(body && { body: JSON.stringify(body) }),
    })
  ).json() as Promise<T>

beforeAll(async () => {
  mkdirSync(site)
  for (const path of [folder, site]) chmodSync(path, 0o755)
  port = await freePort()
  await withDatabase(site, async (url) => {
    const db = connect(url)
    await migrate(db, earlier)
    await changeConfiguration(db, 'ida', 'Meters of the quay', async (editor) => {
      const [link] = await editor.insert('link', [linkTo(5999)])
      await editor.insert('tag', [powerTag(link!.id, 'berth/1/power')])
    })
    await db.destroy()
  })
})
afterAll(() => {
  conduit('stop')
  rmSync(folder, { recursive: true, force: true })
})

describe('a site of an earlier version', () => {
  it('is brought to this one at its start, and kept as it was', async () => {
    const started = conduit('start')
    expect(started.told).toContain('runs at')
    await signIn(started.told)
    const [name] = before()
    expect(JSON.parse(readFileSync(join(site, 'before', name!, 'before.json'), 'utf8'))).toMatchObject({ revision: 1, leftOut: [] })
    expect(readFileSync(join(site, 'launcher.log'), 'utf8')).toContain(`kept in before/${name}`)
    expect(await steps()).not.toBe(earlier)
    await until(async () => (await api<EngineStatus>('/status')).links.length === 1)
    expect((await api<{ revision: number }>('/site')).revision).toBe(1)
  })

  it('is not kept again where nothing has to be brought to another form', () => {
    conduit('stop')
    expect(conduit('start').told).toContain('runs at')
    expect(before()).toHaveLength(1)
  })

  it('makes backups of which the last are kept, and says which was the last', async () => {
    const into = join(folder, 'backups')
    expect(conduit('backup', '--into', into, '--keep', '0').told).toContain('from 1')
    for (let i = 0; i < 3; i++) expect(conduit('backup', '--into', into, '--keep', '2')).toMatchObject({ status: 0 })
    const kept = readdirSync(into).sort()
    expect(kept).toHaveLength(2)
    const { backup } = await api<UpkeepState>('/upkeep')
    expect(backup).toMatchObject({ file: join(into, kept[1]!), revision: 1, revisionsSince: 0 })
  })

  it('goes back by one command, to what it was, and what came since is kept as well', async () => {
    expect(conduit('back').told).toContain('It runs already')
    await api('/site', 'PUT', { name: 'With the new one' })
    conduit('stop')
    expect(await query('select name from site')).toBe('With the new one')
    expect(conduit('back')).toMatchObject({ status: 0, told: expect.stringMatching(/as it was on .*, revision 1\./) as string })
    expect(await steps()).toBe(earlier)
    expect(await query('select revision, name from site')).toBe('1|New site')
    expect(await query('select path from tag')).toBe('berth/1/power')
    expect(before()).toHaveLength(2)
  })

  it('is brought to this version again after that, and nothing is held back', async () => {
    const started = conduit('start')
    await signIn(started.told)
    await until(async () => (await api<EngineStatus>('/status')).configurationFrom === 'database')
    expect((await api<EngineStatus>('/status')).heldDatabase).toBeNull()
    expect(await steps()).not.toBe(earlier)
  })
})

describe('a database that is restored to an older state while the site runs', () => {
  const names = async () => (await api<{ items: { name: string }[] }>('/links')).items.map(({ name }) => name).sort()
  const running = <T>(work: (url: string) => T | Promise<T>) => withDatabase(site, (url) => Promise.resolve(work(url)))
  const dump = join(folder, 'older.dump')
  let page: Browser

  beforeAll(async () => {
    page = await openBrowser(`http://127.0.0.1:${port}`, cookie)
  })
  afterAll(() => page?.close())

  it('is shown as what it is on every page, and holds nothing that runs', async () => {
    await running((url) => runProgram('pg_dump', ['-d', url, '-Fc', '-f', dump]))
    await api('/links', 'POST', linkTo(5998, { name: 'Second meters' }))
    await until(async () => (await api<EngineStatus>('/status')).links.length === 2)
    await running((url) => runProgram('pg_restore', ['-d', url, '--no-owner', '--clean', '--if-exists', dump]))
    // whoever restores tells nobody: the next look finds it
    await running((url) => ask(url, "select pg_notify('configuration', '')"))
    await page.go('/')
    await page.sees('The database is of an older state: revision 1')
    expect((await api<EngineStatus>('/status')).links).toHaveLength(2)
    expect(await names()).toHaveLength(1)
    expect(await api<{ status: string }>('/health')).toMatchObject({ status: 'warn', engine: true, database: true })
  })

  it('gets back what is in force where somebody decides so', async () => {
    await page.press('Decide on Site')
    await page.sees('Which of the two holds?')
    await page.sees('in force, missing there')
    await page.press('Bring it back into the database')
    await page.press('Bring it back')
    await page.sees('What is in force is in the database again, as revision 3.')
    await until(async () => (await names()).length === 2)
    await page.sees(/^(?![\s\S]*Which of the two holds)/)
  })

  it('and upkeep says what there is to be seen to', async () => {
    await page.go('/site/upkeep')
    await page.sees('What ends')
    await page.sees('Our own certificate')
    await page.sees(join(folder, 'backups'))
  })
})

it('a database of a newer version is left alone, and the way back is named', async () => {
  conduit('stop')
  await query("insert into kysely_migration (name, timestamp) values ('999-far-ahead', '2031-01-01')")
  const refused = conduit('run')
  expect(refused).toMatchObject({ status: 1 })
  expect(refused.told).toMatch(/form of a newer version \(999-far-ahead\).*\.\/conduit back goes back to how it was on .* \(revision 1\)/)
  expect(conduit('back')).toMatchObject({ status: 0 })
  expect(await steps()).toBe(earlier)
})
