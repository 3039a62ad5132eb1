import { afterEach, describe, expect, it } from 'vitest'
import { changeConfiguration } from '#db/configuration'
import { PathBook } from '#engine/diagnosis/pathBook'
import { PathWatch } from '#engine/diagnosis/pathWatch'
import { linkContract, type LinkDraft } from '#shared/links/link'
import { closeAll, databaseFor, engineOn, linkTo, metersFor, powerTag, type Closing } from '../support/engineOn'
import { canMakeNetworks, Network } from '../support/networks'
import { walkPath } from '../support/pathWalk'
import { testSecurity } from '../support/security'
import { until } from '../support/until'

/** Real faults between real machines: rules, plugs, routes; and which cause is named first, on whose side, and where. */

const closing: Closing = []
afterEach(() => closeAll(closing))

const networkOf = (isRouted: boolean) => {
  const network = new Network(isRouted)
  closing.push(() => Promise.resolve(network.close()))
  return network
}

const meterAt = (host: string, port = 502, more = {}): LinkDraft =>
  linkContract.parse({
    name: 'Berth 4 meter',
    kind: 'modbus-tcp',
    settings: { host, port, unit: 11, patience: { connect: 900, answer: 700 }, ...more },
  })

interface Fault {
  name: string
  routed?: boolean
  port?: number
  /** The meter does not run. */
  silentMeter?: true
  make(network: Network): void
  cause: string
  side: string
  where: (network: Network) => string
}

const onFar = ({ far }: Network) => `On ${far}`
const here = () => 'On this machine'

const faults: Fault[] = [
  {
    name: 'a rule of the far machine that drops',
    make: (network) => network.filter('far', 'input', 'tcp dport 502 drop'),
    ...{ cause: 'port-filtered', side: 'network', where: onFar },
  },
  {
    name: 'a far machine whose plug is pulled',
    make: (network) => network.unplug('far'),
    ...{ cause: 'host-off', side: 'device', where: ({ far }) => `At ${far}` },
  },
  { name: 'nobody who listens', silentMeter: true, make: () => {}, cause: 'nobody-listens', side: 'device', where: onFar },
  {
    name: 'a wrong port, while the usual one is open',
    port: 503,
    make: () => {},
    cause: 'wrong-port',
    side: 'entry',
    where: () => 'In these settings',
  },
  {
    name: 'a rule of our own that drops',
    make: (network) => network.filter('here', 'output', `ip daddr ${network.far} tcp dport 502 drop`),
    ...{ cause: 'own-firewall', side: 'here', where: here },
  },
  {
    name: 'a rule of our own that rejects',
    make: (network) => network.filter('here', 'output', `ip daddr ${network.far} tcp dport 502 reject with tcp reset`),
    ...{ cause: 'own-firewall', side: 'here', where: here },
  },
  {
    name: 'a firewall between that drops',
    routed: true,
    make: (network) => network.filter('router', 'forward', 'tcp dport 502 drop'),
    ...{ cause: 'port-filtered', side: 'network', where: ({ router, far }) => `Between the router ${router} and ${far}` },
  },
  {
    name: 'a firewall between that says no',
    routed: true,
    make: (network) => network.filter('router', 'forward', 'tcp dport 502 reject with icmp type admin-prohibited'),
    ...{ cause: 'port-filtered', side: 'network', where: ({ router, far }) => `Between the router ${router} and ${far}` },
  },
  {
    name: 'a firewall between that swallows the way back only',
    routed: true,
    make: (network) => network.filter('router', 'forward', 'tcp sport 502 drop'),
    ...{ cause: 'port-filtered', side: 'network', where: ({ router, far }) => `Between the router ${router} and ${far}` },
  },
  {
    name: 'a router that is off',
    routed: true,
    make: (network) => network.unplug('router'),
    ...{ cause: 'router-silent', side: 'network', where: ({ router }) => `At the router ${router}` },
  },
  {
    name: 'a far machine that is off, behind a router',
    routed: true,
    make: (network) => network.unplug('far'),
    ...{ cause: 'host-off', side: 'device', where: ({ far }) => `At ${far}` },
  },
  { name: 'no route', routed: true, make: (network) => network.forgetRoute(), cause: 'no-route', side: 'here', where: here },
]

describe.skipIf(!canMakeNetworks)('between machines, the first cause', () => {
  it.each(faults)('of $name', async ({ routed = false, port, silentMeter, make, cause, side, where }) => {
    const network = networkOf(routed)
    if (!silentMeter) await network.run('tests/support/meterProcess.ts', '502')
    make(network)
    const { verdict } = await walkPath(meterAt(network.far, port))
    expect({ cause: verdict?.causes[0]?.id, side: verdict?.causes[0]?.side, where: verdict?.causes[0]?.where }).toEqual({
      cause,
      side,
      where: where(network),
    })
  })

  it('shows the rule of our own as its owner wrote it', async () => {
    const network = networkOf(false)
    network.filter('here', 'output', `ip daddr ${network.far} tcp dport 502 counter drop comment "maintenance"`)
    const { verdict } = await walkPath(meterAt(network.far))
    expect(verdict?.causes[0]?.for[0]).toContain('counter packets')
    expect(verdict?.causes[0]?.for[0]).toContain('comment "maintenance"')
    expect(verdict?.looked.find(({ id }) => id === 'filter')).toMatchObject({ outcome: 'wrong' })
  })

  it('is asked for by itself when a link breaks, with what passed, and what is otherwise', async () => {
    const network = networkOf(true)
    await network.run('tests/support/meterProcess.ts', '502')
    const database = await databaseFor(closing)
    const { engine, qualityOf } = await engineOn(closing, database)
    const book = new PathBook(null)
    const paths = new PathWatch({ engine, security: await testSecurity(), book })
    closing.push(() => Promise.resolve(paths.close()))
    const draft = {
      ...linkTo(502),
      settings: { ...linkTo(502).settings, host: network.far, patience: { connect: 800, answer: 500, retryFirst: 200, retryMost: 500 } },
    }
    const { result } = await changeConfiguration(database.db, 'test', 'made', async (editor) => {
      const [made] = await editor.insert('link', [linkContract.parse(draft)])
      const [power] = await editor.insert('tag', [powerTag(made!.id, 'berth/4/power')])
      return { link: made!, tag: power! }
    })
    const { link, tag } = result
    await until(() => qualityOf(tag.id) === 0)
    await until(() => book.goodOf('link', link.id) !== null, Boolean, 20)
    network.filter('router', 'forward', 'tcp dport 502 drop', 'tcp sport 502 drop')
    await until(() => book.of('link', link.id).length > 0, Boolean, 30)
    const [record] = book.of('link', link.id)
    expect(record).toMatchObject({ why: 'failure', outcome: 'stopped' })
    const { causes, exchange, lastGood, changes } = record!.verdict!
    expect(causes[0]).toMatchObject({ id: 'port-filtered', where: `Between the router ${network.router} and ${network.far}` })
    expect(lastGood).toBeGreaterThan(Date.now() - 60_000)
    expect(changes).toEqual([])
    const hex = (piece: { bytes: string } | undefined) =>
      Buffer.from(piece?.bytes ?? '', 'base64')
        .subarray(6, 8)
        .toString('hex')
    // the last question of unit 11 and its answer, then questions only
    expect(exchange!.good.map(({ out }) => out)).toEqual([true, false])
    expect(exchange!.good.map(hex)).toEqual(['0b03', '0b03'])
    expect(exchange!.failed.length).toBeGreaterThan(0)
    expect(exchange!.failed.every(({ out }) => out)).toBe(true)
  })
})

describe('a far side of several parts', () => {
  it('names the part that is silent, while the others are sound, and how many values are fresh', async () => {
    const { port, gateway } = await metersFor(closing)
    const database = await databaseFor(closing)
    const { engine, qualityOf } = await engineOn(closing, database)
    const book = new PathBook(null)
    const paths = new PathWatch({ engine, security: await testSecurity(), book })
    closing.push(() => Promise.resolve(paths.close()))
    const { result } = await changeConfiguration(database.db, 'test', 'made', async (editor) => {
      const settings = { ...linkTo(port).settings, patience: { connect: 800, answer: 200, retryFirst: 200, retryMost: 500 } }
      const [link] = await editor.insert('link', [linkContract.parse({ ...linkTo(port), settings })])
      const tags = await editor.insert('tag', [powerTag(link!.id, 'one'), powerTag(link!.id, 'two', '12:holding/40')])
      return { link: link!, tags }
    })
    await until(() => result.tags.every(({ id }) => qualityOf(id) === 0))
    gateway.meters.find(({ unit }) => unit === 12)!.fault.fault = 'silence'
    await until(() => book.of('link', result.link.id).length > 0, Boolean, 20)
    const { steps, verdict } = book.of('link', result.link.id)[0]!
    expect(steps.map(({ step, flow }) => [step, flow])).toEqual([
      ...[
        ['name', 'flowing'],
        ['port', 'flowing'],
        ['reply', 'flowing'],
      ],
      ['part-12', expect.stringMatching(/late|broken/)],
      ['fresh', 'late'],
    ])
    expect(steps.at(-1)!.evidence).toMatch(/^1 of 2 tags good/)
    expect(verdict!.causes[0]).toMatchObject({ id: 'unit-off', side: 'device' })
    // nobody knocks at a gateway whose other units answer
    expect(verdict!.looked.some(({ id }) => id === 'greeting')).toBe(false)
  })
})

describe('a healthy path', () => {
  it('comes to no verdict', async () => {
    const { port } = await metersFor(closing)
    const { steps, verdict } = await walkPath(meterAt('127.0.0.1', port))
    expect(steps.map(({ step, flow }) => [step, flow])).toEqual([
      ['name', 'flowing'],
      ['port', 'flowing'],
      ['reply', 'flowing'],
    ])
    expect(steps.every(({ at }) => typeof at === 'number')).toBe(true)
    expect(verdict).toBeNull()
  })
})
