import mqtt from 'mqtt'
import { afterEach, describe, expect, it } from 'vitest'
import { bridgeContract } from '#core/bridges/settings'
import { changeConfiguration } from '#db/configuration'
import { outletContract } from '#shared/outlets/outlet'
import { freePort } from '../../launcher/ports.mjs'
import { closeAll, linkTo, metersFor, powerTag, type Closing } from '../support/engineOn'
import { machineFor, siteWithDoor } from '../support/farNodes'
import { relayTo } from '../support/relay'
import { until } from '../support/until'

/** Outlets and bridges that run on a node: they go on while the site is away, and move without ever being at two places. */

const closing: Closing = []
afterEach(() => closeAll(closing))

/** A client of a package that is not ours, and what it hears of a topic. */
const listenerAt = async (port: number, topic: string) => {
  const client = await mqtt.connectAsync(`mqtt://127.0.0.1:${port}`, { reconnectPeriod: 50 })
  closing.push(() => client.endAsync(true))
  const heard: Record<string, unknown>[] = []
  client.on('message', (_, payload) => heard.push(JSON.parse(payload.toString()) as Record<string, unknown>))
  await client.subscribeAsync(topic)
  return heard
}

/** A node that reads a meter, hands its value on by a bridge, and serves both at a broker of its own. */
const cabinet = async () => {
  const site = await siteWithDoor(closing)
  const cable = await relayTo(site.port)
  closing.push(() => Promise.resolve(cable.close()))
  const meters = await metersFor(closing)
  const machine = await machineFor(closing, site.code().code, { dialsAt: cable.port })
  const port = await freePort()
  const nodeId = site.node.id
  const { result } = await changeConfiguration(site.base.db, 'test', 'A cabinet', async (editor) => {
    const [link] = await editor.insert('link', [{ ...linkTo(meters.port), nodeId }])
    await editor.insert('tag', [powerTag(link!.id, 'quay/power')])
    const broker = { name: 'Cabinet broker', kind: 'mqtt-broker', settings: { doors: [{ port }] }, nodeId }
    const [outlet] = await editor.insert('outlet', [outletContract.parse(broker)])
    const sends = {
      ...{ name: 'Power on', nodeId, when: [{ kind: 'period', every: 100 }] },
      take: [{ kind: 'tag', name: 'power', path: 'quay/power' }],
      send: [{ kind: 'outlet', number: 1, outletId: outlet!.id, topic: 'bridged', fields: [{ into: 'kw', from: 'power' }] }],
    }
    const [bridge] = await editor.insert('bridge', [bridgeContract.parse(sends)])
    return { link: link!, outlet: outlet!, bridge: bridge! }
  })
  const flows = () => [...site.engine.status().outlets, ...site.engine.status().bridges].map(({ flow }) => flow)
  await until(flows, (all) => all.length === 2 && all.every((flow) => flow === 'flowing'))
  return { site, cable, machine, port, flows, ...result }
}

describe('what runs on a node', () => {
  it('serves consumers there, is told here, and goes on while the site is away', async () => {
    const { site, cable, machine, port, outlet, bridge } = await cabinet()
    expect(site.engine.outlet(outlet.id)).toBeUndefined()
    expect(machine.far.engine.outlet(outlet.id)?.flow).toBe('flowing')
    expect(site.engine.status().outlets).toMatchObject([{ id: outlet.id, addresses: [`mqtt://127.0.0.1:${port}`] }])
    await until(() => site.engine.status().bridges[0]!.runs > 2)
    expect([site.nodes.nodeOf('bridge', bridge.id), site.nodes.nodeOf('outlet', outlet.id)]).toEqual([site.node.id, site.node.id])
    const heard = await listenerAt(port, '#')
    cable.hold()
    const before = heard.length
    await until(() => heard.length > before + 10)
    expect(heard.some(({ kw }) => typeof kw === 'number' && kw > 0)).toBe(true)
    expect(heard.some(({ value }) => typeof value === 'number' && value > 0)).toBe(true)
    cable.cut()
    await until(
      () => site.engine.status(),
      ({ outlets, bridges }) => [...outlets, ...bridges].every(({ flow, fault }) => flow === 'broken' && fault?.code === 'node.away'),
    )
    cable.letGo()
    await until(
      () => site.engine.status(),
      ({ outlets, bridges }) => [...outlets, ...bridges].every(({ flow }) => flow === 'flowing'),
    )
  })

  it('moves to the site and back, and never is at two places: its port is taken by the next one once it is free', async () => {
    const { site, machine, port, outlet, bridge, flows } = await cabinet()
    const heard = await listenerAt(port, 'bridged')
    const move = (nodeId: number | null) =>
      changeConfiguration(site.base.db, 'test', 'moved', async (editor) => {
        await editor.update('outlet', (await editor.row('outlet', outlet.id))!, { nodeId })
        await editor.update('bridge', (await editor.row('bridge', bridge.id))!, { nodeId })
      })
    await move(null)
    await until(() => site.engine.outlet(outlet.id)?.flow === 'flowing' && machine.far.engine.outlet(outlet.id) === undefined)
    await until(() => (site.engine.bridges.get(bridge.id)?.status().runs ?? 0) > 2)
    expect(site.journal.entries.filter(({ text }) => text.includes('EADDRINUSE'))).toEqual([])
    const before = heard.length
    await until(() => heard.length > before + 2)
    await move(site.node.id)
    await until(() => site.engine.outlet(outlet.id) === undefined && machine.far.engine.outlet(outlet.id)?.flow === 'flowing')
    await until(flows, (all) => all.every((flow) => flow === 'flowing'))
    const again = heard.length
    await until(() => heard.length > again + 2)
  })

  it('ends there when it is removed', async () => {
    const { site, machine, outlet, bridge } = await cabinet()
    await changeConfiguration(site.base.db, 'test', 'removed', async (editor) => {
      await editor.remove('bridge', [(await editor.row('bridge', bridge.id))!])
      await editor.remove('outlet', [(await editor.row('outlet', outlet.id))!])
    })
    await until(() => machine.far.engine.outlet(outlet.id) === undefined && machine.far.engine.bridges.get(bridge.id) === undefined)
    expect([site.engine.status().outlets, site.engine.status().bridges]).toEqual([[], []])
  })
})
