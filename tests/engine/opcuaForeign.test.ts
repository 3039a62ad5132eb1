import { afterEach, describe, expect, it } from 'vitest'
import { quality } from '#core/tags/quality'
import type { LinkBrowser } from '#engine/links/driver'
import { closeAll, type Closing } from '../support/engineOn'
import { checkAll, openOpcua } from '../support/opcuaSession'
import type { Wanted } from '../support/points'
import { testSecurity } from '../support/security'
import { PlainServer } from '../support/ua/plainServer'
import { variable } from '../support/ua/space'
import { until } from '../support/until'
import { opcuaSettings } from '#shared/links/opcua'

/** A server that shares no code with the product, with habits that real ones have. */

const plant = 'urn:port:berth-3'
const other = 'urn:port:berth-4'

const closing: Closing = []
afterEach(() => closeAll(closing))

const startServer = async () => {
  const server = await PlainServer.start([plant, other])
  closing.push(() => server.stop())
  server.space.add({ id: 'ns=1;s=Berth', name: 'Berth', parent: 'i=85' })
  server.space.add(variable('ns=1;s=Berth', 'Level', 'Double', 4.25))
  server.space.add(variable('ns=1;s=Berth', 'Pump', 'Int32', 7, { writable: true }))
  server.space.add({ id: 'ns=2;s=Level', name: 'Level', parent: 'i=85', variant: { type: 'Double', value: 99 } })
  return server
}

const settingsFor = (server: PlainServer, reading: Record<string, unknown> = {}) =>
  opcuaSettings.parse({
    address: `127.0.0.1:${server.port}`,
    policy: 'None',
    mode: 'None',
    identity: { kind: 'anonymous' },
    reading: { publishing: 50, sampling: 50, ...reading },
    patience: { connect: 2000, answer: 2000, retryFirst: 100, retryMost: 400 },
  })

const open = async (server: PlainServer, wanted: Wanted[], reading: Record<string, unknown> = {}) => {
  const link = openOpcua(settingsFor(server, reading), await testSecurity(), wanted)
  closing.push(() => link.session.close())
  return link
}

const level: Wanted = { address: `nsu=${plant};s=Level`, type: 'float64' }
const pump: Wanted = { address: `nsu=${plant};s=Pump`, type: 'int32' }

describe('a server of another make', () => {
  it('is checked, watched, browsed and written', async () => {
    const server = await startServer()
    const steps = await checkAll(settingsFor(server), await testSecurity())
    expect(steps.map(({ step, fault }) => [step, fault?.what])).toEqual(steps.map(({ step }) => [step, undefined]))
    const link = await open(server, [level, pump])
    await until(() => link.value(0) === 4.25 && link.value(1) === 7)
    server.space.set('ns=1;s=Level', 4.5)
    await until(() => link.value(0) === 4.5 && link.quality(0) === quality.Good)
    expect(await link.write(1, 12)).toEqual({ ok: true })
    expect(link.value(1)).toBe(12)
    const { nodes } = await (link.session.browser() as LinkBrowser).children({ address: `nsu=${plant};s=Berth`, member: '' })
    expect(nodes.map(({ name }) => name)).toEqual(['Level', 'Pump'])
  })
})
