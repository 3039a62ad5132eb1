import { spawnSync } from 'node:child_process'
import { chmodSync, existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'

/** The configuration as a text, and tags as a table, by the command line; of a site that does not run. */

const folder = mkdtempSync(join(tmpdir(), 'conduit-lines-'))
const file = (name: string) => join(folder, name)

const conduit = (state: string, args: string[], env: Record<string, string> = {}, input = '') => {
  const { status, stdout, stderr } = spawnSync(process.execPath, ['launcher/main.mjs', ...args], {
    env: { ...process.env, CONDUIT_STATE: file(state), ...env },
    encoding: 'utf8',
    input,
  })
  return { status, told: stdout + stderr }
}

const secrets = { LINK_CABLE_ARM_IDENTITY_PASSWORD: 'arm', OUTLET_SERVER_USERS_PANEL_KEY_PASSWORD: 'panel' }
const text = `conduit: 1
site: Harrow Sound
links:
  Berth meters: { kind: modbus-tcp, settings: { host: 127.0.0.1, port: 5999, unit: 11 } }
  Cable arm:
    kind: opcua
    settings:
      address: opc.tcp://127.0.0.1:5998
      identity: { kind: password, user: conduit, password: { secret: LINK_CABLE_ARM_IDENTITY_PASSWORD }, inClear: true }
tags:
  berth/1/power: { source: { kind: point, link: Berth meters, address: holding/40 }, type: float32, unit: kW }
  berth/1/limit: { source: { kind: memory, start: '5' }, type: int16 }
outlets:
  Server:
    kind: opcua-server
    on: false
    settings:
      users:
        - name: panel
          key: { kind: password, password: { secret: OUTLET_SERVER_USERS_PANEL_KEY_PASSWORD } }
          rules: [{ folder: '', may: read }]
`

beforeAll(() => {
  chmodSync(folder, 0o755)
  writeFileSync(file('site.yaml'), text)
})
afterAll(() => rmSync(folder, { recursive: true, force: true }))

describe('the configuration as a text', () => {
  it('is applied to an empty site, once its secrets are there, and comes back as the same text', () => {
    expect(conduit('first', ['site', 'check', file('site.yaml')])).toMatchObject({
      status: 0,
      told: expect.stringContaining('LINK_CABLE_ARM_IDENTITY_PASSWORD, OUTLET_SERVER') as string,
    })
    expect(conduit('first', ['site', 'compare', file('site.yaml')]).status).toBe(1)
    // nobody is there to be asked
    expect(conduit('first', ['site', 'apply', file('site.yaml')])).toMatchObject({ status: 1 })
    const without = conduit('first', ['site', 'apply', file('site.yaml'), '--yes'], { LINK_CABLE_ARM_IDENTITY_PASSWORD: 'arm' })
    expect(without).toMatchObject({ status: 2, told: expect.stringContaining('OUTLET_SERVER_USERS_PANEL_KEY_PASSWORD') as string })
    expect(conduit('first', ['site', 'apply', file('site.yaml'), '--yes'], secrets)).toMatchObject({ status: 0 })
    // what is kept need not be told again
    expect(conduit('first', ['site', 'compare', file('site.yaml')])).toMatchObject({ status: 0 })
    expect(conduit('first', ['site', 'compare', file('site.yaml')], { ...secrets, LINK_CABLE_ARM_IDENTITY_PASSWORD: 'other' }).status).toBe(
      1,
    )

    expect(conduit('first', ['site', 'export', file('back.yaml')]).status).toBe(0)
    expect(conduit('second', ['site', 'apply', '-', '--yes'], secrets, readFileSync(file('back.yaml'), 'utf8')).status).toBe(0)
    expect(conduit('second', ['site', 'export', '-'])).toEqual({ status: 0, told: readFileSync(file('back.yaml'), 'utf8') })
  })

  it('that is wrong is refused with line and column, and changes nothing', () => {
    writeFileSync(file('bad.yaml'), text.replace('port: 5999', 'port: 99999').replace('type: int16', 'type: int17'))
    const { status, told } = conduit('first', ['site', 'apply', file('bad.yaml'), '--yes'], secrets)
    expect(status).toBe(2)
    expect(told).toContain('bad.yaml:4:66: links.Berth meters.settings.port: A TCP port')
    expect(told).toMatch(/bad\.yaml:12:\d+: tags\.berth\/1\/limit\.type: A type is/)
    writeFileSync(file('bad.yaml'), 'conduit: 1\nlinks: {')
    expect(conduit('first', ['site', 'compare', file('bad.yaml')]).told).toContain('line 2, column 9')
    expect(conduit('first', ['site', 'compare', file('nowhere.yaml')]).status).toBe(2)
    expect(conduit('first', ['site', 'campare', file('site.yaml')])).toMatchObject({
      status: 2,
      told: expect.stringContaining('site compare FILE') as string,
    })
    expect(conduit('first', ['site', 'compare', file('site.yaml')]).status).toBe(0)
  })

  it('does not send a kept secret to another address', () => {
    writeFileSync(file('moved.yaml'), text.replace('127.0.0.1:5998', '10.9.9.9:5998'))
    expect(conduit('first', ['site', 'apply', file('moved.yaml'), '--yes'])).toMatchObject({ status: 2 })
    expect(conduit('first', ['site', 'apply', file('moved.yaml'), '--yes'], secrets)).toMatchObject({ status: 0 })
  })
})

describe('tags as a table', () => {
  it('go out, are checked and applied; with lines that are refused only on demand', () => {
    expect(conduit('first', ['tags', 'export', file('tags.csv'), '--folder', 'berth/1']).status).toBe(0)
    const table = readFileSync(file('tags.csv'), 'utf8')
    expect(table).toContain('berth/1/power,point,Berth meters,holding/40')
    writeFileSync(file('tags.csv'), `${table.replace('kW', 'MW')}berth//x,memory\n`)
    expect(conduit('first', ['tags', 'check', file('tags.csv')])).toMatchObject({
      status: 1,
      told: expect.stringMatching(
        /~ berth\/1\/power\n {4}unit: kW → MW\n! tags.csv:4: path: .*\n0 added, 1 changed, 0 removed, 1 refused/,
      ) as string,
    })
    expect(conduit('first', ['tags', 'apply', file('tags.csv'), '--yes']).status).toBe(2)
    expect(conduit('first', ['tags', 'apply', file('tags.csv'), '--yes', '--part'])).toMatchObject({ status: 0 })
    expect(conduit('first', ['site', 'export', '-']).told).toContain('unit: MW')
    expect(conduit('first', ['tags', 'export', '-', '--link', 'Nowhere'])).toMatchObject({ status: 2 })
  })
})

describe('a backup', () => {
  const phrase = { CONDUIT_BACKUP_PASSPHRASE: 'quay wall at low tide' }
  const exported = (state: string) => conduit(state, ['site', 'export', '-']).told
  const kept = (state: string) => readdirSync(file(state)).filter((name) => name.startsWith('site')).length

  it('asks for a passphrase, and is made once', () => {
    expect(conduit('first', ['backup', file('site.tar')]).told).toContain('CONDUIT_BACKUP_PASSPHRASE')
    expect(conduit('first', ['backup', file('site.tar')], { CONDUIT_BACKUP_PASSPHRASE: 'short' }).told).toContain('at least 12')
    expect(conduit('nowhere', ['backup', file('site.tar')], phrase)).toMatchObject({ status: 1 })
    expect(existsSync(file('site.tar'))).toBe(false)
    mkdirSync(file('first/site/certificate'))
    writeFileSync(file('first/site/certificate/own.pem'), 'as it was shown to others')
    expect(conduit('first', ['backup', file('site.tar')], phrase)).toMatchObject({
      status: 0,
      told: expect.stringContaining('“Harrow Sound”') as string,
    })
    expect(conduit('first', ['backup', file('site.tar')], phrase)).toMatchObject({ status: 1 })
    expect(statSync(file('site.tar')).mode & 0o077).toBe(0)
  })

  it('makes the same site on an empty machine, with secrets that can be opened, and its history of changes', () => {
    expect(conduit('third', ['restore', file('site.tar')], phrase)).toMatchObject({ status: 0 })
    expect(exported('third')).toBe(exported('first'))
    // what is sealed can be opened with the keys that came along: nothing has to be told again
    writeFileSync(file('now.yaml'), exported('first'))
    expect(conduit('third', ['site', 'compare', file('now.yaml')], secrets)).toMatchObject({
      status: 0,
      told: expect.stringContaining('Nothing differs') as string,
    })
    expect(readFileSync(file('third/site/certificate/own.pem'), 'utf8')).toBe('as it was shown to others')
  })

  it('changes nothing where it is refused: another passphrase, a file that was changed, a site that is there', () => {
    const before = exported('third')
    expect(conduit('third', ['restore', file('site.tar')], phrase).told).toContain('There is a site here already')
    const other = { CONDUIT_BACKUP_PASSPHRASE: 'another passphrase' }
    expect(conduit('third', ['restore', file('site.tar'), '--replace'], other).told).toContain('another passphrase')
    const bytes = readFileSync(file('site.tar'))
    const at = bytes.indexOf('PGDMP') + 2000
    bytes[at] = bytes[at]! ^ 1
    writeFileSync(file('changed.tar'), bytes)
    expect(conduit('third', ['restore', file('changed.tar'), '--replace'], phrase).told).toContain('“database.dump”')
    writeFileSync(file('none.tar'), 'no archive')
    expect(conduit('third', ['restore', file('none.tar'), '--replace'], phrase).status).toBe(1)
    expect(conduit('fourth', ['restore', file('none.tar')], phrase).status).toBe(1)
    expect(exported('third')).toBe(before)
    expect(kept('third')).toBe(1)
  })

  it('takes the place of a site on demand, which is put aside', () => {
    conduit('third', ['site', 'apply', '-', '--yes'], secrets, text.replace('Harrow Sound', 'Another'))
    expect(exported('third')).not.toBe(exported('first'))
    expect(conduit('third', ['restore', file('site.tar'), '--replace'], phrase)).toMatchObject({
      status: 0,
      told: expect.stringContaining('What was here before is in') as string,
    })
    expect(exported('third')).toBe(exported('first'))
    expect(kept('third')).toBe(2)
  })
})
