import { afterEach, describe, expect, it } from 'vitest'
import { linkContract, type LinkDraft } from '#shared/links/link'
import { closeAll, type Closing } from '../support/engineOn'
import { canMakeNetworks, Network } from '../support/networks'
import { walkPath } from '../support/pathWalk'

/** The same faults of the way, for every protocol that goes over a network: the rules know protocols only where they differ. */

const closing: Closing = []
afterEach(() => closeAll(closing))

const patience = { connect: 900, answer: 700 }
const password = { plain: 'tide' }
const kinds: Record<string, (host: string) => object> = {
  'modbus-tcp': (host) => ({ host, port: 502, unit: 11 }),
  'iso-tcp': (host) => ({ host, port: 102 }),
  opcua: (host) => ({ address: `opc.tcp://${host}:4840` }),
  mqtt: (host) => ({ host, port: 1883 }),
  http: (host) => ({ base: `http://${host}:80`, operations: [{ name: 'price', path: '/price' }] }),
  sql: (host) => ({ host, port: 5432, user: 'office', database: 'calls', password }),
  'bacnet-ip': (host) => ({ port: 0, devices: [{ instance: 4001, host }] }),
  iolink: (host) => ({ base: `http://${host}:8080/iolink/v1` }),
}
const linkOf = (kind: string, host: string): LinkDraft =>
  linkContract.parse({ name: kind, kind, settings: { ...kinds[kind]!(host), patience } })

interface Case {
  name: string
  routed: boolean
  make(network: Network): void
  cause: string
  /** Of what goes without connections, where that is told otherwise. */
  ofDatagrams?: string
  side: string
}

const ports = '{ 80, 102, 502, 1883, 4840, 5432, 8080, 47808 }'
const cases: Case[] = [
  { name: 'nobody listens', routed: false, make: () => {}, cause: 'nobody-listens', side: 'device' },
  {
    name: 'the far machine is off',
    routed: false,
    make: (network) => network.unplug('far'),
    cause: 'host-off',
    ofDatagrams: 'device-off',
    side: 'device',
  },
  {
    name: 'a rule of the far machine drops',
    routed: false,
    make: (network) => network.filter('far', 'input', `tcp dport ${ports} drop`, `udp dport ${ports} drop`),
    ...{ cause: 'port-filtered', ofDatagrams: 'udp-filtered', side: 'network' },
  },
  {
    name: 'a rule of our own drops',
    routed: false,
    make: (network) => network.filter('here', 'output', `ip daddr ${network.far} meta l4proto { tcp, udp } th dport ${ports} drop`),
    ...{ cause: 'own-firewall', side: 'here' },
  },
  {
    name: 'a firewall between says no',
    routed: true,
    make: (network) =>
      network.filter('router', 'forward', `meta l4proto { tcp, udp } th dport ${ports} reject with icmp type admin-prohibited`),
    ...{ cause: 'port-filtered', ofDatagrams: 'udp-filtered', side: 'network' },
  },
  {
    name: 'the router is off',
    routed: true,
    make: (network) => network.unplug('router'),
    ...{ cause: 'router-silent', side: 'network' },
  },
]

describe.skipIf(!canMakeNetworks)('of every protocol the first cause', () => {
  it.each(cases)(
    'where $name',
    async ({ routed, make, cause, ofDatagrams = cause, side }) => {
      const network = new Network(routed)
      closing.push(() => Promise.resolve(network.close()))
      make(network)
      const known = Object.keys(kinds)
      const found = await Promise.all(
        known.map(async (kind) => {
          const [first] = (await walkPath(linkOf(kind, network.far))).verdict?.causes ?? []
          return [kind, first?.id, first?.side]
        }),
      )
      expect(found).toEqual(known.map((kind) => [kind, kind === 'bacnet-ip' ? ofDatagrams : cause, side]))
    },
    60_000,
  )
})
