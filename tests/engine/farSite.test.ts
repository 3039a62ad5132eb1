import { connect } from 'node:net'
import { afterEach, describe, expect, it } from 'vitest'
import { recordingContract } from '#core/history/settings'
import { isGood } from '#core/tags/quality'
import { changeConfiguration } from '#db/configuration'
import { HistoryReader } from '#db/history/reader'
import { tagNamespace } from '#engine/outlets/opcua/addressSpace'
import { linkContract } from '#shared/links/link'
import { outletContract } from '#shared/outlets/outlet'
import { tagDraft } from '#shared/tags'
import { freePort } from '../../launcher/ports.mjs'
import { closeAll, databaseFor, engineOn, linkTo, powerTag, stateFolderFor, type Closing } from '../support/engineOn'
import { canMakeNetworks, Network } from '../support/networks'
import { plainClient } from '../support/outlet'
import { until } from '../support/until'

/** A site behind address translation and a firewall that lets it dial out only: a copy of us there, and one here. */

const closing: Closing = []
afterEach(() => closeAll(closing))

const recording = (pattern: string) => recordingContract.parse({ pattern, how: { kind: 'change' } })

/** The engine’s own process on the far machine, reading a meter there, recording, and dialling us. */
const farCopy = async (network: Network, awaitedAt: number) => {
  await network.run('tests/support/meterProcess.ts', '502')
  const database = await databaseFor(closing)
  const { result } = await changeConfiguration(database.db, 'test', 'made', async (editor) => {
    const [link] = await editor.insert('link', [linkTo(502, { name: 'Meters' })])
    const count = {
      path: 'berth/count',
      source: { kind: 'signal', shape: 'ramp', every: 100, low: 0, high: 10_000, cycle: 600_000 },
      type: 'float64',
    }
    const [, counter] = await editor.insert('tag', [powerTag(link!.id, 'berth/power'), tagDraft.parse(count)])
    await editor.insert('recording', [recording('berth/**')])
    const settings = { doors: [{ on: false }], dialled: [{ host: network.ours, port: awaitedAt, policies: ['None'] }] }
    await editor.insert('outlet', [outletContract.parse({ name: 'To the office', kind: 'opcua-server', settings })])
    return counter!.id
  })
  const port = Number(new URL(database.url).port)
  await network.offer(port, port)
  await network.runWith(
    {
      ...{
        CONDUIT_STATE: stateFolderFor(closing),
        CONDUIT_DATABASE: database.url,
        CONDUIT_SEAL_KEY: 'a secret of the far site, long enough',
      },
      ...{ CONDUIT_RPC_PORT: '4999', CONDUIT_RPC_SECRET: 'a secret of the far site, long enough' },
    },
    'engine/main.ts',
  )
  const reader = new HistoryReader(database.url)
  closing.push(() => reader.close())
  return { samples: (from: number, to: number) => reader.samples({ id: result, from, to, most: 100_000 }) }
}

const nearCopy = async (network: Network, awaitedAt: number) => {
  const database = await databaseFor(closing)
  const door = await freePort()
  const { result: linkId } = await changeConfiguration(database.db, 'test', 'made', async (editor) => {
    const settings = {
      awaits: { interface: network.ours, port: awaitedAt },
      reading: { publishing: 100, sampling: 50, queue: 100 },
      patience: { connect: 2000, answer: 5000, retryFirst: 200, retryMost: 1000 },
      takesOver: { folder: 'far', namespaces: [tagNamespace] },
    }
    const [link] = await editor.insert('link', [linkContract.parse({ name: 'Far berth', kind: 'opcua', settings })])
    await editor.insert('recording', [recording('far/**')])
    await editor.insert('outlet', [
      outletContract.parse({ name: 'Control room', kind: 'opcua-server', settings: { doors: [{ port: door }] } }),
    ])
    return link!.id
  })
  const { engine, journal } = await engineOn(closing, database)
  const isHere = (path: string) => {
    const handle = engine.tags.byPath(path)?.handle
    return handle !== undefined && isGood(engine.table.quality[handle]!)
  }
  const samples = (from: number, to: number) =>
    engine.history.past.samples({ id: engine.tags.byPath('far/berth/count')!.id, from, to, most: 100_000 })
  return { engine, journal, isHere, samples, door, flow: () => engine.link(linkId)!.flow }
}

const canBeDialled = (host: string, port: number) =>
  new Promise<boolean>((resolve) => {
    const socket = connect({ host, port, timeout: 1500 })
    const end = (is: boolean) => {
      socket.destroy()
      resolve(is)
    }
    socket
      .once('connect', () => end(true))
      .once('timeout', () => end(false))
      .once('error', () => end(false))
  })

const cutMs = 30_000

describe.skipIf(!canMakeNetworks)('a far site that can only dial out', () => {
  it('is read, served on, and lacks nothing that was recorded there after its line was cut', async () => {
    const [network, awaitedAt] = [new Network(true), await freePort()]
    closing.push(() => Promise.resolve(network.close()))
    network.lockIn()
    const far = await farCopy(network, awaitedAt)
    expect(await canBeDialled(network.far, 502)).toBe(false)
    const near = await nearCopy(network, awaitedAt)
    await until(() => near.isHere('far/berth/power') && near.isHere('far/berth/count'), Boolean, 90)
    await until(() => near.engine.status().outlets[0]?.flow === 'flowing', Boolean, 60)
    const client = await plainClient(near.door)
    closing.push(() => client.close())
    const served = await until(
      () => client.read(tagNamespace, 'far/berth/power'),
      ({ statusCode }) => statusCode.isGood(),
    )
    expect(served.value.value).toBeGreaterThan(0)
    const began = Date.now()
    const mended = network.filter('router', 'forward', 'drop')
    await until(() => near.flow() !== 'flowing', Boolean, 60)
    await new Promise((resolve) => setTimeout(resolve, Math.max(0, began + cutMs - Date.now())))
    mended()
    await until(() => near.flow() === 'flowing' && near.isHere('far/berth/count'), Boolean, 90)
    const ended = Date.now()
    await until(() => near.journal.entries.some(({ text }) => /is filled in/.test(text)), Boolean, 60)
    const [theirs, ours] = [await far.samples(began, ended), await near.samples(began, ended)]
    expect(theirs.length).toBeGreaterThan(cutMs / 200)
    const known = new Map(ours.map((sample) => [sample.at, sample]))
    expect(theirs.filter(({ at, number, quality }) => known.get(at)?.number !== number || known.get(at)?.quality !== quality)).toEqual([])
    expect(ours.filter(({ quality }) => !isGood(quality))).toEqual([])
  }, 300_000)
})
