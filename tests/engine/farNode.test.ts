import { existsSync, readFileSync } from 'node:fs'
import type { Server } from 'node:net'
import { afterEach, describe, expect, it } from 'vitest'
import { recordingContract } from '#core/history/settings'
import { isGood, quality } from '#core/tags/quality'
import { changeConfiguration } from '#db/configuration'
import { linkContract } from '#shared/links/link'
import { closeAll, engineOn, linkTo, metersFor, powerTag, type Closing } from '../support/engineOn'
import { machineFor, siteWithDoor } from '../support/farNodes'
import { relayTo } from '../support/relay'
import { until } from '../support/until'

/** A machine elsewhere that runs links of a site, over the real door on loopback. */

const closing: Closing = []
afterEach(() => closeAll(closing))

type Site = Awaited<ReturnType<typeof siteWithDoor>>
const isGoodAt = (site: Site, tag: number) =>
  site.engine.tags.handleOf(tag) !== undefined && isGood(site.qualityOf(tag)) && site.valueOf(tag) !== undefined
const untilGood = (site: Site, tag: number) => until(() => isGoodAt(site, tag))

/** A site, a node with its machine behind a cable, and the meters of that machine’s plant. */
const siteWithMeters = async (more: object = {}) => {
  const site = await siteWithDoor(closing)
  const cable = await relayTo(site.port)
  closing.push(() => Promise.resolve(cable.close()))
  const meters = await metersFor(closing)
  const masters = { now: 0, most: 0 }
  ;(meters.gateway as unknown as { server: Server }).server.on('connection', (socket) => {
    masters.now++
    socket.on('close', () => masters.now--)
    // one that ended a moment ago may be heard of after the one that came next
    setTimeout(() => (masters.most = Math.max(masters.most, masters.now)), 50)
  })
  const machine = await machineFor(closing, site.code().code, { dialsAt: cable.port })
  const { result } = await changeConfiguration(site.base.db, 'test', 'Meters on the quay', async (editor) => {
    const [link] = await editor.insert('link', [{ ...linkTo(meters.port), nodeId: site.node.id, ...more }])
    const [tag] = await editor.insert('tag', [powerTag(link!.id, 'quay/power')])
    return { link: link!, tag: tag! }
  })
  const { link, tag } = result
  await untilGood(site, tag.id)
  return { site, cable, meters, masters, machine, link, tag }
}

const change = <T>(site: Site, work: Parameters<typeof changeConfiguration<T>>[3]) =>
  changeConfiguration(site.base.db, 'test', 'changed', work)

describe('a node', () => {
  it('runs the links that are placed on it, and the site has their values', async () => {
    const { site, machine, link, tag } = await siteWithMeters()
    expect(site.valueOf(tag.id)).toBeGreaterThan(0)
    expect(machine.far.engine.link(link.id)?.isElsewhere).toBe(false)
    await until(
      () => [site.status().flow, site.engine.status().links[0]?.flow],
      ([node, its]) => node === 'flowing' && its === 'flowing',
    )
    expect(site.engine.status().links).toMatchObject([{ id: link.id, tags: 1, goodTags: 1 }])
    expect(site.status()).toMatchObject({ isConnected: true, isBehind: false, links: 1, tags: 1, goodTags: 1, notInForceCount: 0 })
    expect(site.status().machine).toMatchObject({ cores: expect.any(Number) as number, diskFreeMb: expect.any(Number) as number })
  })

  it('is told what changes, and what it had before is not taken for that', async () => {
    const { site, machine, link, tag } = await siteWithMeters()
    const meters = await metersFor(closing)
    const other = await relayTo(meters.port)
    closing.push(() => Promise.resolve(other.close()))
    other.hold()
    await change(site, async (editor) => {
      const row = (await editor.row('link', link.id))!
      return editor.update('link', row, { settings: { ...row.settings, port: other.port } as never })
    })
    // the other device is silent: nothing of the first one may count any more, whatever was on its way
    await until(() => !isGoodAt(site, tag.id))
    await until(() => machine.far.engine.wanted.revision === site.engine.wanted.revision)
    expect(isGoodAt(site, tag.id)).toBe(false)
    other.letGo()
    await untilGood(site, tag.id)
  })

  it('that is away leaves no good value behind, says so, and comes again by itself', async () => {
    const { site, machine, link, tag } = await siteWithMeters()
    await machine.close()
    await until(
      () => site.qualityOf(tag.id),
      (code) => code === quality.BadNoCommunication,
    )
    expect(site.engine.status().links[0]).toMatchObject({ id: link.id, flow: 'broken', fault: { code: 'node.away' } })
    const again = await machineFor(closing, '', { stateFolder: machine.stateFolder })
    expect(again.identity.node).toBe(site.node.id)
    await untilGood(site, tag.id)
  })

  it('goes on while its site is away, and starts by what it was told last', async () => {
    const { site, cable, meters, machine, link, tag } = await siteWithMeters()
    cable.hold()
    await machine.close()
    const before = meters.accepted()
    const again = await machineFor(closing, '', { stateFolder: machine.stateFolder, dialsAt: cable.port })
    await until(() => meters.accepted() > before)
    const { engine } = again.far
    await until(() => isGood(engine.table.quality[engine.tags.handleOf(tag.id)!]!))
    expect(again.far.line.isConnected).toBe(false)
    // what was changed meanwhile reaches it, and what it does not know yet is told here
    await change(site, (editor) => editor.insert('tag', [powerTag(link.id, 'quay/second', 'holding/42')]))
    await until(() => site.status().isBehind)
    expect(site.engine.effectOf(site.engine.wanted.revision)).toMatchObject({ state: 'in force', waits: ['Outer quay'] })
    cable.letGo()
    cable.cut()
    await until(() => !site.status().isBehind && site.status().isConnected)
    await until(() => site.engine.tags.byPath('quay/second') && isGoodAt(site, site.engine.tags.byPath('quay/second')!.id))
  })

  it('brings what it recorded while nobody could hear it, whole and once', async () => {
    const { site, cable, machine, link, tag } = await siteWithMeters()
    await change(site, (editor) => editor.insert('recording', [recordingContract.parse({ pattern: 'quay/**', how: { kind: 'change' } })]))
    const { engine } = machine.far
    await until(() => engine.history.status().tags === 1)
    // from now on it has what is put here
    await engine.link(link.id)!.close()
    const handle = engine.tags.handleOf(tag.id)!
    const from = Date.now() + 50
    const put = (value: number, at: number) => {
      engine.table.set(handle, value, quality.Good, at)
      engine.table.flush()
    }
    await new Promise((resolve) => setTimeout(resolve, 60))
    put(1, Date.now())
    // of one time a tag has one sample: the next ones are of later times
    await until(() => site.valueOf(tag.id) === 1)
    cable.hold()
    for (let i = 0; i < 20; i++) {
      put(100 + i, Date.now())
      await new Promise((resolve) => setTimeout(resolve, 20))
    }
    await until(() => machine.far.status().waiting > 0)
    cable.cut()
    cable.letGo()
    await until(() => site.valueOf(tag.id) === 119)
    const kept = await until(
      () => site.engine.history.past.samples({ id: tag.id, from, to: Date.now(), most: 1000 }),
      (samples) => samples.length >= 21,
    )
    expect(kept.map(({ number }) => number)).toEqual([1, ...Array.from({ length: 20 }, (_, i) => 100 + i)])
    await until(() => machine.far.status().waiting === 0)
  })

  it('is written to from the site, which records who did', async () => {
    const { site, machine, link } = await siteWithMeters()
    const { result } = await change(site, (editor) =>
      editor.insert('tag', [{ ...powerTag(link.id, 'quay/limit', 'holding/120'), type: 'uint16', access: 'readwrite' }]),
    )
    const limit = result[0]!
    await untilGood(site, limit.id)
    const written = await site.engine.writes.writeTag(limit.id, 3, { who: 'ada', via: 'page', place: 'test' })
    expect(written).toMatchObject({ ok: true })
    await until(() => site.valueOf(limit.id) === 3)
    expect(site.journal.writes).toMatchObject([{ who: 'ada', path: 'quay/limit', value: '3', fault: null }])
    await machine.close()
    await until(() => !site.status().isConnected)
    expect(await site.engine.writes.writeTag(limit.id, 600, { who: 'ada', via: 'page', place: 'test' })).toMatchObject({
      ok: false,
      fault: { code: 'node.away' },
    })
  })

  it('gets secrets for itself alone, and keeps them sealed', async () => {
    const { site, machine } = await siteWithMeters()
    const sealed = site.security.seal.close('quay secret')
    const settings = { address: '127.0.0.1:1', identity: { kind: 'password', user: 'conduit', password: { sealed }, inClear: true } }
    await change(site, (editor) =>
      editor.insert('link', [{ ...linkContract.parse({ name: 'Arm', kind: 'opcua', settings }), nodeId: site.node.id }]),
    )
    const arm = await until(() => [...machine.far.engine.wanted.things.link.values()].find(({ name }) => name === 'Arm'))
    const kept = (arm!.settings as unknown as { identity: { password: { sealed: string } } }).identity.password.sealed
    expect(kept).not.toBe(sealed)
    expect(machine.seal.open(kept)).toBe('quay secret')
    await until(() => existsSync(machine.keptConfiguration) && readFileSync(machine.keptConfiguration, 'utf8').includes('Arm'))
    expect(readFileSync(machine.keptConfiguration, 'utf8')).not.toContain('quay secret')
    expect(readFileSync(machine.keptConfiguration, 'utf8')).not.toContain(sealed)
  })

  it('says here and there what it cannot bring into force, and the rest goes on', async () => {
    const { site, meters, machine, tag } = await siteWithMeters()
    const { result: second } = await change(site, (editor) =>
      editor.insert('link', [{ ...linkTo(meters.port, { name: 'Second' }), nodeId: site.node.id }]),
    )
    await until(() => machine.far.engine.link(second[0]!.id))
    machine.far.engine.link(second[0]!.id)!['running']!.session.update = () => {
      throw new Error('no room on the line')
    }
    const { revision } = await change(site, (editor) =>
      editor.update('link', second[0]!, { settings: { ...second[0]!.settings, interval: 60 } as never }),
    )
    const here = await until(() => site.engine.status().notInForce.find(({ name }) => name === 'Second'))
    expect(here).toMatchObject({ node: 'Outer quay', subject: 'link', revision })
    expect(site.engine.effectOf(revision)).toMatchObject({ state: 'in part', things: [{ name: 'Second', node: 'Outer quay' }] })
    expect(machine.far.status().notInForce).toHaveLength(1)
    expect(isGoodAt(site, tag.id)).toBe(true)
    expect(site.status()).toMatchObject({ flow: 'late', notInForceCount: 1 })
    await until(() => site.journal.entries.some(({ source, text }) => source === 'Second' && text.includes('no room')))
  })

  it('outlives the engine of its site, which gets all again when it is back', async () => {
    const { site, cable, machine, tag } = await siteWithMeters()
    cable.hold()
    await site.feed.close()
    await site.nodes.close()
    const again = await engineOn(closing, site.base, site.stateFolder)
    cable.cut()
    cable.letGo()
    await until(() => machine.far.line.isConnected)
    await until(
      () => again.engine.tags.handleOf(tag.id) !== undefined && isGood(again.qualityOf(tag.id)) && again.valueOf(tag.id) !== undefined,
    )
  })

  it('is given a link, and gives it back: never two talk to one device', async () => {
    const { site, masters, machine, link, tag } = await siteWithMeters()
    for (const nodeId of [null, site.node.id, null, site.node.id]) {
      await change(site, async (editor) => editor.update('link', (await editor.row('link', link.id))!, { nodeId }))
      await until(() => site.engine.link(link.id)?.isElsewhere === (nodeId !== null))
      await until(() => (machine.far.engine.link(link.id) !== undefined) === (nodeId !== null))
      await untilGood(site, tag.id)
    }
    // and by somebody who cannot make up his mind
    for (const nodeId of [null, site.node.id, null, site.node.id])
      await change(site, async (editor) => editor.update('link', (await editor.row('link', link.id))!, { nodeId }))
    await until(() => site.engine.link(link.id)?.isElsewhere && machine.far.engine.link(link.id) !== undefined && !site.status().isBehind)
    await untilGood(site, tag.id)
    await until(() => masters.now === 1)
    expect(masters.most).toBe(1)
  })
})
