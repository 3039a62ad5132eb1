import { AttributeIds, UserTokenType, type UserIdentityInfo } from 'node-opcua'
import { afterEach, describe, expect, it } from 'vitest'
import { quality } from '#core/tags/quality'
import { tagNamespace } from '#engine/outlets/opcua/addressSpace'
import { healthNamespace } from '#core/opcua/ourNamespaces'
import type { Security } from '#engine/trust/security'
import type { NamedLink } from '#engine/outlets/driver'
import { freePort } from '../../launcher/ports.mjs'
import { trusting } from '../support/opcuaSession'
import { named, openOutlet, plainClient, securedScada, watch, withPassword } from '../support/outlet'
import { testSecurity } from '../support/security'
import { until } from '../support/until'

/** What an outlet shows, and to whom. */

const closing: (() => Promise<unknown>)[] = []
afterEach(async () => {
  for (const close of closing.splice(0).reverse()) await close()
})

const namesNamespace = 'urn:keen-conduit:names'

const serve = async (settings: object = {}, around: Parameters<typeof openOutlet>[1] = {}) => {
  const port = await freePort()
  const base = {
    doors: [{ port, policies: ['None', 'Basic256Sha256'], names: true, certificates: true }],
    anonymous: [{ folder: '', may: 'write' }],
  }
  const outlet = await openOutlet({ ...base, ...settings }, around)
  closing.push(() => outlet.session.close())
  const update = (next: object) => outlet.update({ ...base, ...next })
  const dial = async () => {
    const client = await plainClient(port)
    closing.push(() => client.close())
    return client
  }
  await until(() => outlet.session.status().flow === 'flowing')
  return { ...outlet, update, dial, port }
}
type Outlet = Awaited<ReturnType<typeof serve>>

/** Tags of two berths and one without a folder, each with a value. */
const plant = ({ session, table, tag }: Outlet) => {
  const paths = ['berth/1/shore/power', 'berth/1/limit', 'berth/2/shore/power', 'berth/2/limit', 'horn']
  const tags = paths.map((path) => tag(path, { writable: path.endsWith('limit') }))
  session.setTags(tags, [])
  for (const [i, { handle }] of tags.entries()) table.set(handle, i, quality.Good, Date.now())
  table.flush()
  return tags
}

const password = 'of this test'
const guest = (name: string, rules: object[]) => ({ name, key: withPassword(password), rules })

/** Guests come by a secured way in; their application is trusted. */
const guestsOf = async (outlet: Outlet) => {
  const scada = await securedScada(outlet.security.own.der, outlet.port, closing)
  outlet.security.trust.set([trusting(scada.security.own.der)])
  return (name: string) => scada.dial(named(name, password))
}

describe('an outlet shows', () => {
  it('only the folders that it is told to, and lets write only where that is told', async () => {
    const outlet = await serve({
      shows: [
        { folder: 'berth', may: 'read' },
        { folder: 'berth/1', may: 'write' },
        { folder: 'berth/1/shore', may: 'nothing' },
      ],
    })
    plant(outlet)
    const client = await outlet.dial()
    expect(await client.below('ObjectsFolder')).not.toContain('horn')
    expect(await client.below(client.node(tagNamespace, 'berth/1/'))).toEqual(['limit'])
    expect((await client.read(tagNamespace, 'berth/1/shore/power')).statusCode.name).toBe('BadNodeIdUnknown')
    expect(await client.write(tagNamespace, 'berth/1/limit', 9)).toBe('Good')
    expect(await client.write(tagNamespace, 'berth/2/limit', 9)).toBe('BadNotWritable')
    expect(outlet.written.map(({ value }) => value)).toEqual([9])
    outlet.update({ shows: [{ folder: 'berth/2', may: 'write' }] })
    await until(async () => (await client.below(client.node(tagNamespace, 'berth/'))).join() === '2')
    expect(await client.write(tagNamespace, 'berth/2/limit', 8)).toBe('Good')
  }, 30_000)

  it('each guest what that one may see, and no more, also by subscription', async () => {
    const users = [guest('control room', [{ folder: '', may: 'write' }]), guest('berth one', [{ folder: 'berth/1', may: 'read' }])]
    const outlet = await serve({ users, anonymous: [{ folder: 'horn', may: 'read' }] })
    const tags = plant(outlet)
    const dial = await guestsOf(outlet)
    const [everything, one, nobody] = [await dial('control room'), await dial('berth one'), await outlet.dial()]
    expect(await everything.write(tagNamespace, 'berth/2/limit', 5)).toBe('Good')

    expect(await one.below(one.node(tagNamespace, 'berth/'))).toEqual(['1'])
    expect((await one.read(tagNamespace, 'berth/1/limit')).value.value).toBe(1)
    expect(await one.write(tagNamespace, 'berth/1/limit', 5)).toBe('BadUserAccessDenied')
    expect((await one.read(tagNamespace, 'berth/2/limit')).statusCode.name).toBe('BadUserAccessDenied')

    expect(await nobody.below('ObjectsFolder')).not.toContain('berth')
    for (const samplingInterval of [0, 20]) {
      const seen = await watch(nobody, nobody.node(tagNamespace, 'berth/2/limit'), samplingInterval)
      outlet.table.set(tags[3]!.handle, 77 + samplingInterval, quality.Good, Date.now())
      outlet.table.flush()
      const allowed = await watch(everything, everything.node(tagNamespace, 'berth/2/limit'), samplingInterval)
      await until(() => allowed.at(-1)!.value.value === 77 + samplingInterval)
      expect(seen.every(({ statusCode, value }) => statusCode.isBad() && (value?.value ?? null) === null)).toBe(true)
    }
    expect(
      outlet.session
        .status()
        .clients.map(({ identity }) => identity)
        .sort(),
    ).toEqual(['anonymous', 'berth one', 'control room'])
  }, 30_000)

  it('a guest out whose rights are others now, and leaves the others in', async () => {
    const before = [guest('a', [{ folder: '', may: 'write' }]), guest('b', [{ folder: '', may: 'read' }])]
    const outlet = await serve({ users: before })
    plant(outlet)
    const dial = await guestsOf(outlet)
    await dial('a')
    await dial('b')
    expect(outlet.session.status().clients).toHaveLength(2)
    outlet.update({ users: [guest('a', [{ folder: 'berth', may: 'read' }]), before[1]] })
    await until(() => outlet.session.status().clients.every(({ identity }) => identity === 'b'))
    expect(outlet.session.status().clients).toHaveLength(1)
  }, 30_000)

  it('units and ranges as the standard has them, and changes them while they are watched', async () => {
    const outlet = await serve()
    const { table, session } = outlet
    const tag = outlet.tag('power', { unit: 'kW', range: { low: 0, high: 4000 }, description: 'Power' })
    session.setTags([tag], [])
    table.set(tag.handle, 1, quality.Good, Date.now())
    table.flush()
    const client = await outlet.dial()
    const nodeId = client.node(tagNamespace, 'power')
    const property = async (name: string) => {
      const path = await client.session.translateBrowsePath({
        startingNode: nodeId,
        relativePath: { elements: [{ referenceTypeId: 'i=46', targetName: { name } }] },
      })
      return (await client.session.read({ nodeId: path.targets![0]!.targetId, attributeId: AttributeIds.Value })).value.value as unknown
    }
    expect(await property('EURange')).toMatchObject({ low: 0, high: 4000 })
    const seen = await watch(client, nodeId, 0)
    session.setTags([{ ...tag, unit: 'MW', range: { low: 0, high: 4 }, description: 'Power taken', writable: true }], [])
    expect(await property('EURange')).toMatchObject({ low: 0, high: 4 })
    expect(await property('EngineeringUnits')).toMatchObject({ displayName: { text: 'MW' } })
    const described = await client.session.read({ nodeId, attributeId: AttributeIds.Description })
    expect((described.value.value as { text: string }).text).toBe('Power taken')
    expect(await client.write(tagNamespace, 'power', 3)).toBe('Good')
    table.set(tag.handle, 2, quality.Good, Date.now())
    table.flush()
    await until(() => seen.at(-1)!.value.value === 2)
    expect(seen.map(({ statusCode }) => statusCode.name).every((name) => name === 'Good')).toBe(true)
  }, 30_000)

  it('what values are called as the standard has it, the present one as text, to those who may see it', async () => {
    const outlet = await serve({
      anonymous: [{ folder: 'reel', may: 'read' }],
      users: [guest('elsewhere', [{ folder: 'berth', may: 'read' }])],
    })
    const { table, session } = outlet
    const step = outlet.tag('reel/step', {
      type: 'int16',
      names: [
        { value: -1, name: 'fails' },
        { value: 10, name: 'reaches out' },
      ],
    })
    const clamped = outlet.tag('reel/clamped', {
      type: 'bool',
      names: [
        { value: 1, name: 'clamped' },
        { value: 0, name: 'free' },
      ],
    })
    session.setTags([step, clamped], [])
    table.set(step.handle, 10, quality.Good, Date.now())
    table.flush()
    const client = await outlet.dial()
    const property = async (path: string, name: string) => {
      const found = await client.session.translateBrowsePath({
        startingNode: client.node(tagNamespace, path),
        relativePath: { elements: [{ referenceTypeId: 'i=46', targetName: { name } }] },
      })
      return found.targets![0]!.targetId.toString()
    }
    const read = async (path: string, name: string) =>
      (await client.session.read({ nodeId: await property(path, name), attributeId: AttributeIds.Value })).value.value as unknown
    expect(await read('reel/step', 'EnumValues')).toMatchObject([
      { value: [0xffffffff, 0xffffffff], displayName: { text: 'fails' } },
      { value: [0, 10], displayName: { text: 'reaches out' } },
    ])
    expect([await read('reel/clamped', 'FalseState'), await read('reel/clamped', 'TrueState')]).toMatchObject([
      { text: 'free' },
      { text: 'clamped' },
    ])
    const text = await property('reel/step', 'ValueAsText')
    const seen = await watch(client, text, 100)
    await until(() => (seen.at(-1)?.value.value as { text: string } | undefined)?.text === 'reaches out')
    table.set(step.handle, -1, quality.Good, Date.now())
    table.flush()
    await until(() => (seen.at(-1)?.value.value as { text: string } | undefined)?.text === 'fails')
    const stranger = await (await guestsOf(outlet))('elsewhere')
    expect((await stranger.session.read({ nodeId: text, attributeId: AttributeIds.Value })).statusCode.name).toBe('BadUserAccessDenied')
    session.setTags([{ ...step, names: [{ value: -1, name: 'is broken' }] }], [])
    await until(() => (seen.at(-1)?.value.value as { text: string } | undefined)?.text === 'is broken')
    expect(await read('reel/step', 'ValueAsText')).toMatchObject({ text: 'is broken' })
    expect(await read('reel/step', 'EnumValues')).toHaveLength(1)
  }, 30_000)
})

describe('a guest by certificate', () => {
  it('comes in with the key that belongs to it, and with no other', async () => {
    const [known, stranger] = [await testSecurity(), await testSecurity()]
    const outlet = await serve({
      users: [{ name: 'panel', key: { kind: 'certificate', certificate: known.own.pem }, rules: [{ folder: 'berth/1', may: 'write' }] }],
    })
    plant(outlet)
    const scada = await securedScada(outlet.security.own.der, outlet.port, closing)
    outlet.security.trust.set([trusting(scada.security.own.der)])
    const by = (certificate: Security, key: Security = certificate): UserIdentityInfo => ({
      type: UserTokenType.Certificate,
      certificateData: certificate.own.der,
      privateKey: key.own.key,
    })
    const panel = await scada.dial(by(known))
    expect(outlet.session.status().clients.map(({ identity }) => identity)).toEqual(['panel'])
    expect(await panel.write(tagNamespace, 'berth/1/limit', 2)).toBe('Good')
    expect(await panel.write(tagNamespace, 'berth/2/limit', 2)).toBe('BadUserAccessDenied')
    await expect(scada.dial(by(stranger))).rejects.toThrow(/BadIdentityTokenRejected/)
    await expect(scada.dial(by(known, stranger))).rejects.toThrow(/BadUserSignatureInvalid/)
  }, 30_000)
})

describe('short names', () => {
  it('are one flat view beside the deep one, with folders that show theirs once more', async () => {
    const outlet = await serve({ shortNames: { on: true, own: [{ path: 'berth/2/limit', name: 'LIMIT_2' }] } })
    const tags = plant(outlet)
    const client = await outlet.dial()
    const flat = await client.below(client.node(namesNamespace, '/'))
    const values = ['berth_1_shore_power', 'berth_1_limit', 'berth_2_shore_power', 'LIMIT_2', 'horn']
    expect(flat.filter((name) => values.includes(name)).sort()).toEqual([...values].sort())
    expect(await client.below(client.node(namesNamespace, 'berth_2/'))).toEqual(['LIMIT_2'])
    expect((await client.read(namesNamespace, 'LIMIT_2')).value.value).toBe(3)
    expect(await client.write(namesNamespace, 'LIMIT_2', 6)).toBe('Good')

    const seen = await watch(client, client.node(namesNamespace, 'horn'), 20)
    outlet.table.set(tags[4]!.handle, 44, quality.Good, Date.now())
    outlet.table.flush()
    await until(() => seen.at(-1)!.value.value === 44)

    outlet.update({ shortNames: { on: true, most: 12 } })
    await until(async () => (await client.below(client.node(namesNamespace, '/'))).includes('b_1_s_power'))
    expect((await client.read(namesNamespace, 'LIMIT_2')).statusCode.name).toBe('BadNodeIdUnknown')
    outlet.update({})
    await until(async () => !(await client.below('ObjectsFolder')).includes('Short names'))
    expect((await client.read(tagNamespace, 'horn')).value.value).toBe(44)
  }, 30_000)
})

const healthy = (name: string): NamedLink => ({
  ...{ id: 1, name, flow: 'flowing', sentence: 'Answers', fault: null, tags: 51, goodTags: 51, answerMs: 2.5 },
  ...{ requests: 12, failures: 0, units: [], connections: 1 },
})

describe('the health of links', () => {
  it('is for those who may see the whole site', async () => {
    const outlet = await serve({ anonymous: [{ folder: 'horn', may: 'read' }] }, { links: [healthy('Berth meters')] })
    plant(outlet)
    const client = await outlet.dial()
    await until(async () => (await client.below('ObjectsFolder')).includes('horn'))
    expect(await client.below('ObjectsFolder')).not.toContain('Links')
    expect((await client.read(healthNamespace, 'Berth meters/State')).statusCode.name).toBe('BadUserAccessDenied')
  }, 30_000)

  it('is there as nodes, and follows', async () => {
    const link = healthy('Berth meters')
    const links = [link]
    const outlet = await serve({}, { links })
    const client = await outlet.dial()
    expect(await client.below(client.node(healthNamespace, '/'))).toEqual(['Berth meters'])
    const fact = async (name: string) => (await client.read(healthNamespace, `Berth meters/${name}`)).value.value as unknown
    expect(await fact('State')).toBe('flowing')
    expect(await fact('AnswerTime')).toBe(2.5)
    expect(await fact('LastError')).toBe('')
    Object.assign(link, { flow: 'broken', failures: 3, fault: { what: 'No reply.' } })
    await until(async () => (await fact('StateCode')) === 1)
    expect(await fact('Failures')).toBe(3)
    Object.assign(link, { flow: 'flowing', fault: null })
    await until(async () => (await fact('State')) === 'flowing')
    expect(await fact('LastError')).toBe('No reply.')
    links.pop()
    await until(async () => (await client.read(healthNamespace, 'Berth meters/State')).statusCode.name === 'BadNodeIdUnknown')
    outlet.update({ health: false })
    expect(await client.below('ObjectsFolder')).not.toContain('Links')
  }, 30_000)
})
