import { AttributeIds } from 'node-opcua'
import { afterEach, describe, expect, it } from 'vitest'
import { Engine } from '#engine/engine'
import { requestNamespace } from '#engine/outlets/opcua/requested'
import { linkContract } from '#shared/links/link'
import { outletContract } from '#shared/outlets/outlet'
import { Gateway } from '#standins/modbus/gateway'
import { Meter } from '#standins/modbus/meter'
import { Berth } from '#standins/physics/berth'
import { freePort } from '../../launcher/ports.mjs'
import { configure } from '../support/configured'
import { memoryJournal } from '../support/modbusSession'
import { blankMemory } from '../support/memory'
import { opcuaDetailsOf, plainClient, watch } from '../support/outlet'
import { testSecurity } from '../support/security'
import { until } from '../support/until'

/** Points that clients name themselves, from the meter on its socket to the client on its own. */

const closing: (() => Promise<unknown>)[] = []
afterEach(async () => {
  for (const close of closing.splice(0).reverse()) await close()
})

describe('points on request', () => {
  /** A whole engine: a link to a meter, an outlet, and not a single tag. */
  const site = async (onRequest: object) => {
    const profile = { voltage: 11_000, load: 1000, powerFactor: 0.95, ramp: 1, swing: 0, swingPeriod: 1 }
    const gateway = new Gateway([new Meter(11, 1, new Berth(profile, 1000, true), () => 1)], 8)
    const modbus = await gateway.listen(0)
    const port = await freePort()
    const journal = memoryJournal()
    const engine = new Engine({ memory: blankMemory(), node: 'test', journal, security: await testSecurity() })
    const link = linkContract.parse({
      name: 'Berth meters',
      kind: 'modbus-tcp',
      settings: { host: '127.0.0.1', port: modbus, unit: 11, order: 'CDAB', interval: 50 },
    })
    const apply = (revision: number, settings: object, links = [{ ...link, id: 1, revision: 1 }]) => {
      const outlet = outletContract.parse({
        name: 'Outlet',
        kind: 'opcua-server',
        settings: { doors: [{ port }], anonymous: [{ folder: '', may: 'write' }], ...settings },
      })
      return configure(engine, revision, { link: links, outlet: [{ ...outlet, id: 2, revision }] })
    }
    await apply(1, { onRequest })
    closing.push(
      () => gateway.close(),
      () => engine.close(),
    )
    const outlet = () => engine.status().outlets[0]!
    await until(() => outlet().flow === 'flowing')
    const client = await plainClient(port, 'Control room')
    closing.push(() => client.close())
    const read = (id: string) => client.read(requestNamespace, id)
    return { engine, outlet, client, read, apply, journal, gateway }
  }

  it('are read when a client names link, address and type; written only where that is allowed', async () => {
    const { read, client, outlet, engine, apply } = await site({ on: true })
    const first = await read('Berth meters|holding/60|uint32')
    expect(first.statusCode.name).toBe('Good')
    const power = await read('Berth meters|11:holding/40|float32|100')
    expect(power.value.value).toBeGreaterThan(900)
    const seen = await watch(client, client.node(requestNamespace, 'Berth meters|holding/64|float32'), 20)
    await until(() => seen.at(-1)!.statusCode.name === 'Good')
    expect(opcuaDetailsOf(outlet()).onRequest).toMatchObject({
      points: [{ text: 'Berth meters|holding/60|uint32', client: 'Control room' }, {}, {}],
      refused: [],
    })
    expect(engine.status().links[0]).toMatchObject({ tags: 0 })
    expect(await client.write(requestNamespace, 'Berth meters|holding/90|float32', 5, 10)).toBe('BadNotWritable')
    await apply(2, { onRequest: { on: true, mayWrite: true } })
    expect(await client.write(requestNamespace, 'Berth meters|holding/90|float32', 900, 10)).toBe('Good')
    expect((await read('Berth meters|holding/90|float32')).value.value).toBe(900)
    expect(await client.write(requestNamespace, 'Berth meters|input/0|uint32', 5, 7)).toBe('BadNotWritable')
  }, 30_000)

  it.each([
    ['Berth meter|holding/40|float32', /there is no link “Berth meter”/],
    ['Berth meters|holdin/40|float32', /“holdin\/40”/],
    ['Berth meters|holding/40|float', /“float” is no type/],
    ['Berth meters|coil/3|float32', /“float32”/],
    ['Berth meters|holding/40', /not of the form link\|address\|type/],
    ['Berth meters|holding/40|float32|5', /10 to 86400000 ms, and this is 5/],
  ])(
    '%s is refused, once, with the client and the wrong part',
    async (text, problem) => {
      const { read, outlet, journal } = await site({ on: true })
      for (let i = 0; i < 3; i++) expect((await read(text)).statusCode.name).toBe('BadNodeIdUnknown')
      expect(opcuaDetailsOf(outlet()).onRequest.refused).toMatchObject([{ text, client: 'Control room', times: 3 }])
      expect(opcuaDetailsOf(outlet()).onRequest.refused[0]!.problem).toMatch(problem)
      const told = journal.entries.filter(({ text: line }) => line.includes(text))
      expect(told.map(({ text: line }) => line)).toEqual([expect.stringMatching(/^“Control room” asked for/) as string])
    },
    30_000,
  )

  it('in great numbers and all wrong do not fill the journal', async () => {
    const { client, outlet, journal } = await site({ on: true })
    const nodes = Array.from({ length: 1000 }, (_, i) => ({
      nodeId: client.node(requestNamespace, `Berth meters|holding/${i}|word`),
      attributeId: AttributeIds.Value,
    }))
    for (let i = 0; i < 2; i++) await client.session.read(nodes)
    expect(opcuaDetailsOf(outlet()).onRequest.refused).toHaveLength(200)
    const told = journal.entries.map(({ text }) => text).filter((text) => /did not get it|refused;/.test(text))
    expect(told).toHaveLength(201)
    expect(told.at(-1)).toMatch(/More than 200 different requests were refused/)
  }, 30_000)

  it('are off until they are switched on, and limited in number; what is there already stays', async () => {
    const { read, outlet, apply, engine } = await site({})
    const [first, second] = ['Berth meters|holding/60|uint32', 'Berth meters|holding/64|float32']
    expect((await read(first)).statusCode.name).toBe('BadNodeIdUnknown')
    expect(opcuaDetailsOf(outlet()).onRequest.refused[0]!.problem).toMatch(/switched off/)
    await apply(2, { onRequest: { on: true, most: 1 } })
    expect((await read(first)).statusCode.name).toBe('Good')
    expect((await read(second)).statusCode.name).toBe('BadNodeIdUnknown')
    expect(opcuaDetailsOf(outlet()).onRequest.refused[0]!.problem).toMatch(/^1 points? on request/)
    expect((await read(first)).statusCode.name).toBe('Good')
    expect(engine.table.size).toBe(1)
    await apply(3, { onRequest: { on: false } })
    expect((await read(first)).statusCode.name).toBe('BadNodeIdUnknown')
    expect(engine.table.size).toBe(0)
  }, 30_000)

  it('say so when their link is gone', async () => {
    const { read, apply } = await site({ on: true })
    const text = 'Berth meters|holding/60|uint32'
    expect((await read(text)).statusCode.name).toBe('Good')
    await apply(2, { onRequest: { on: true } }, [])
    expect((await read(text)).statusCode.name).toBe('BadOutOfService')
  }, 30_000)
})
