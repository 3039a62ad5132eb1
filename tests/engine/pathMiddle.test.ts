import { createServer } from 'node:http'
import { afterEach, describe, expect, it } from 'vitest'
import { linkContract, type LinkDraft } from '#shared/links/link'
import { startArm } from '../support/arm'
import { closeAll, databaseFor, type Closing } from '../support/engineOn'
import { canMakeNetworks, Network } from '../support/networks'
import { walkPath } from '../support/pathWalk'

/** What stands between machines and lets some of it through: address translations, ways for small packets only. */

const closing: Closing = []
afterEach(() => closeAll(closing))

const networkOf = () => {
  const network = new Network(true)
  closing.push(() => Promise.resolve(network.close()))
  return network
}

const patience = { connect: 1500, answer: 1500 }
const meterAt = (host: string, more = {}): LinkDraft =>
  linkContract.parse({
    name: 'Berth 4 meter',
    kind: 'modbus-tcp',
    settings: { host, port: 502, unit: 11, patience: { ...patience, ...more } },
  })
const armAt = (host: string, more = {}): LinkDraft =>
  linkContract.parse({ name: 'Cable arm', kind: 'opcua', settings: { address: `opc.tcp://${host}:4840/arm`, patience, ...more } })
const pricesAt = (host: string): LinkDraft =>
  linkContract.parse({
    name: 'Prices',
    kind: 'http',
    settings: { base: `http://${host}:80`, operations: [{ name: 'prices', path: '/prices' }], patience },
  })

const offerArm = async (network: Network) => {
  const arm = await startArm()
  closing.unshift(() => arm.stop())
  await network.offer(4840, arm.port)
}
const offerPrices = async (network: Network) => {
  const prices = JSON.stringify({ hours: Array.from({ length: 4000 }, (_, hour) => ({ hour, price: 11.25 })) })
  const server = createServer((_, reply) => reply.setHeader('content-type', 'application/json').end(prices))
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve))
  closing.unshift(() => Promise.resolve(void server.close().closeAllConnections()))
  await network.offer(80, (server.address() as { port: number }).port)
}

const offerRows = async (network: Network) => {
  const { url } = await databaseFor(closing)
  await network.offer(5432, Number(new URL(url).port))
  database = new URL(url)
}
let database: URL
const rowsAt = (host: string): LinkDraft =>
  linkContract.parse({
    name: 'Office',
    kind: 'sql',
    settings: {
      ...{ host, port: 5432, database: database.pathname.slice(1), user: database.username },
      ...{ password: { plain: decodeURIComponent(database.password) || 'none' }, patience },
    },
  })

/** The causes that are left, the likeliest first; none: the path is sound. */
const causesAt = async (draft: LinkDraft) => {
  const { verdict } = await walkPath(draft)
  return (verdict?.causes ?? []).filter(({ isRuledOut }) => !isRuledOut)
}

describe.skipIf(!canMakeNetworks)('behind an address translation', () => {
  const translated = () => {
    const network = networkOf()
    network.translate('prerouting', `tcp dport { 502, 4840 } dnat to ${network.far}`)
    return network
  }

  it('a server that tells an address of its own network is reached by the one that was dialled', async () => {
    const network = translated()
    await offerArm(network)
    expect(await causesAt(armAt(network.router!))).toEqual([])
  })

  it('a machine that is off is known by the one before it, which looks for it in vain', async () => {
    const network = translated()
    network.unplug('far')
    const [first] = await causesAt(meterAt(network.router!, { connect: 5000 }))
    expect(first).toMatchObject({ id: 'behind-translation', side: 'device', where: `Behind ${network.router}` })
  })

  it('a machine that drops looks like a firewall of the one before it; that it may be behind is said', async () => {
    const network = translated()
    network.filter('far', 'input', 'tcp dport 502 drop')
    const causes = await causesAt(meterAt(network.router!))
    expect(causes.map(({ id }) => id).slice(0, 2)).toEqual(['port-filtered', 'behind-translation'])
    expect(causes[0]).toMatchObject({ side: 'network' })
    expect(causes[1]!.unmeasured).toContain('only it knows')
  })

  it('a machine that nothing is passed on to is refused by the one before it', async () => {
    const network = networkOf()
    const [first] = await causesAt(meterAt(network.router!))
    expect(first).toMatchObject({ id: 'nobody-listens', where: `On ${network.router}` })
  })
})

describe.skipIf(!canMakeNetworks)('without a way back', () => {
  it('a machine looks as if it were off; that it may hear us is said', async () => {
    const network = networkOf()
    await network.run('tests/support/meterProcess.ts', '502')
    network.on('far', 'ip', 'route', 'del', 'default')
    const causes = await causesAt(meterAt(network.far))
    expect(causes.map(({ id }) => id).slice(0, 2)).toEqual(['host-off', 'no-way-back'])
  })
})

describe.skipIf(!canMakeNetworks)('where large packets get lost', () => {
  it.each([
    ['a long answer', offerPrices, pricesAt],
    ['a long certificate', offerArm, armAt],
    ['rows of a database', offerRows, rowsAt],
  ])('%s that stays away is told by their size', async (_, offer, at) => {
    const network = networkOf()
    await offer(network)
    expect(await causesAt(at(network.far))).toEqual([])
    network.narrow(1300)
    const [first] = await causesAt(at(network.far))
    expect(first).toMatchObject({ id: 'packet-size', side: 'network', for: ['of 1500 bytes that our network takes, 1300 pass whole'] })
  })

  it('short answers pass, and nothing is said', async () => {
    const network = networkOf()
    await network.run('tests/support/meterProcess.ts', '502')
    network.narrow(1300)
    expect(await causesAt(meterAt(network.far))).toEqual([])
  })
})
