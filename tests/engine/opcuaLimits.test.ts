import type { BrowseRequest, OPCUAServer } from 'node-opcua'
import { afterEach, describe, expect, it } from 'vitest'
import { quality } from '#core/tags/quality'
import { LookingFault } from '#engine/links/looking'
import type { LinkBrowser } from '#engine/links/driver'
import { startArm } from '../support/arm'
import { closeAll, type Closing } from '../support/engineOn'
import { armNode, openOpcua, opcuaSettingsFor } from '../support/opcuaSession'
import { testSecurity } from '../support/security'
import { until } from '../support/until'

/** Servers that take little at once, as small controllers do. */

const closing: Closing = []
afterEach(() => closeAll(closing))

const small = async () => {
  const plant = await startArm(1, 300)
  closing.push(() => plant.stop())
  const link = openOpcua(opcuaSettingsFor(plant.port), await testSecurity(), [
    { address: armNode('Plug.Position.Extension'), type: 'float32' },
    { address: armNode('Plug.Position.Slew'), type: 'float32' },
  ])
  closing.push(() => link.session.close())
  await until(() => link.quality(1) === quality.Good)
  const browser = link.session.browser() as LinkBrowser
  const server = plant.server['server']!
  return { plant, link, browser, server }
}

/** From now on it takes no more than this at once; what it said of its limits before was more. */
const takeLess = (server: OPCUAServer, most: number, continuationPoints = 0) => {
  const { serverCapabilities } = server.engine
  Object.assign(serverCapabilities.operationLimits, { maxNodesPerRead: most, maxNodesPerBrowse: most, maxMonitoredItemsPerCall: most })
  serverCapabilities.maxBrowseContinuationPoints = continuationPoints
}

/** Gives references a few at a time, whatever the client asks for. */
const giveFew = (server: OPCUAServer, most: number) => {
  const open = server as unknown as { _on_BrowseRequest(message: { request: BrowseRequest }, channel: unknown): void }
  const answer = open._on_BrowseRequest.bind(server)
  open._on_BrowseRequest = (message, channel) => {
    message.request.requestedMaxReferencesPerNode = most
    answer(message, channel)
  }
}

const below = async (browser: LinkBrowser, address: string) => {
  const names: string[] = []
  const failed: string[] = []
  for await (const part of browser.branch({ address, member: '' }, new AbortController().signal)) {
    names.push(...part.points.map((point) => point.names.join('/')))
    failed.push(...part.failed.map((place) => place.names.join('/')))
  }
  return { names: names.sort(), failed }
}

describe('a server that takes little at once', () => {
  it('is asked for less from its first refusal on, and gives everything', async () => {
    const { browser, server } = await small()
    const all = await below(browser, '')
    expect(all.names.length).toBeGreaterThan(300)
    takeLess(server, 10)
    expect(await below(browser, '')).toEqual(all)
  })

  it('with few continuation points gives every folder whole', async () => {
    const { browser, server } = await small()
    const all = await below(browser, '')
    takeLess(server, 100, 2)
    giveFew(server, 3)
    expect(await below(browser, '')).toEqual(all)
    const diagnostics = await browser.children({ address: armNode('Diagnostics'), member: '' })
    expect(diagnostics.nodes).toHaveLength(300)
  })

  it('has as many items watched as are wanted', async () => {
    const { plant, link, server } = await small()
    takeLess(server, 7)
    const points = Array.from({ length: 60 }, (_, i) => ({
      ...link.points[0]!,
      handle: link.table.allocate(),
      address: armNode(`Diagnostics.Cell${i}`),
      path: `cell ${i}`,
    }))
    const children = await (link.session.browser() as LinkBrowser).children({ address: armNode('Diagnostics'), member: '' })
    points.forEach((point, i) => (point.address = children.nodes[i]!.address))
    link.session.setPoints(points, [])
    await until(() => points.every(({ handle }) => link.table.quality[handle] === quality.Good))
    link.session.setPoints(
      [],
      points.map(({ handle }) => handle),
    )
    await until(() => link.session.status().sentence.startsWith('2 items'))
    expect(plant.arm).toBeDefined()
  })
})

describe('a place that is not there', () => {
  it.each([
    [armNode('Plug.Nowhere'), 'opcua.no-node'],
    ['nsu=urn:another:plant;s=Tank', 'opcua.no-namespace'],
  ])('is told as such: %s', async (address, code) => {
    const { browser } = await small()
    const refused = await browser.children({ address, member: '' }).catch((error: unknown) => error)
    expect(refused).toBeInstanceOf(LookingFault)
    expect((refused as LookingFault).why.code).toBe(code)
  })

  it('and watches no oftener than it likes to: that is a note on those who wanted more', async () => {
    const { link } = await small()
    const [first] = link.points
    const quick = { ...first!, handle: link.table.allocate(), interval: 10, path: 'quick' }
    link.session.setPoints([quick], [])
    await until(() => link.table.quality[quick.handle] === quality.Good)
    expect(link.session.findings()).toEqual([
      { handle: quick.handle, kind: 'interval', text: 'is told every 50 ms and not every 10 ms: the server allows no shorter interval' },
    ])
    expect(link.session.origin(quick.handle)?.stages[0]?.detail).toContain('at most every 50 ms')
  })
})
