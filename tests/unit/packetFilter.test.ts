import { describe, expect, it } from 'vitest'
import { filterOf, type FirstPacket } from '#core/diagnosis/packetFilter'

/** Rules as the system lists them, in both of its forms. */
const rules = [
  { table: { family: 'inet', name: 'filter', handle: 1 } },
  {
    set: {
      family: 'inet',
      name: 'plant',
      table: 'filter',
      type: 'ipv4_addr',
      handle: 4,
      flags: ['interval'],
      elem: [{ prefix: { addr: '10.8.0.0', len: 24 } }, '10.9.0.5'],
    },
  },
  { chain: { family: 'inet', table: 'filter', name: 'special', handle: 1 } },
  { chain: { family: 'inet', table: 'filter', name: 'input', handle: 2, type: 'filter', hook: 'input', prio: 0, policy: 'drop' } },
  { chain: { family: 'inet', table: 'filter', name: 'output', handle: 3, type: 'filter', hook: 'output', prio: 0, policy: 'accept' } },
  {
    rule: {
      family: 'inet',
      table: 'filter',
      chain: 'special',
      handle: 5,
      expr: [{ match: { op: '==', left: { payload: { protocol: 'tcp', field: 'dport' } }, right: 1883 } }, { accept: null }],
    },
  },
  { rule: { family: 'inet', table: 'filter', chain: 'special', handle: 6, expr: [{ return: null }] } },
  {
    rule: {
      family: 'inet',
      table: 'filter',
      chain: 'input',
      handle: 7,
      expr: [{ match: { op: 'in', left: { ct: { key: 'state' } }, right: ['established', 'related'] } }, { accept: null }],
    },
  },
  {
    rule: {
      family: 'inet',
      table: 'filter',
      chain: 'input',
      handle: 8,
      expr: [{ match: { op: '==', left: { meta: { key: 'iifname' } }, right: 'lo' } }, { accept: null }],
    },
  },
  {
    rule: {
      family: 'inet',
      table: 'filter',
      chain: 'input',
      handle: 10,
      expr: [{ match: { op: '==', left: { payload: { protocol: 'tcp', field: 'dport' } }, right: { set: [22, 80] } } }, { accept: null }],
    },
  },
  {
    rule: {
      family: 'inet',
      table: 'filter',
      chain: 'input',
      handle: 11,
      expr: [
        { match: { op: '==', left: { payload: { protocol: 'tcp', field: 'dport' } }, right: { range: [4840, 4843] } } },
        { match: { op: '==', left: { payload: { protocol: 'ip', field: 'saddr' } }, right: { prefix: { addr: '10.8.0.0', len: 24 } } } },
        { accept: null },
      ],
    },
  },
  {
    rule: {
      family: 'inet',
      table: 'filter',
      chain: 'input',
      handle: 12,
      expr: [
        { match: { op: '==', left: { payload: { protocol: 'ip', field: 'saddr' } }, right: { prefix: { addr: '10.1.0.0', len: 16 } } } },
        { jump: { target: 'special' } },
      ],
    },
  },
  {
    rule: {
      family: 'inet',
      table: 'filter',
      chain: 'output',
      handle: 13,
      expr: [
        { match: { op: '==', left: { payload: { protocol: 'ip', field: 'daddr' } }, right: '@plant' } },
        { match: { op: '==', left: { payload: { protocol: 'tcp', field: 'dport' } }, right: 502 } },
        { counter: { packets: 0, bytes: 0 } },
        { drop: null },
      ],
    },
  },
  {
    rule: {
      family: 'inet',
      table: 'filter',
      chain: 'output',
      handle: 14,
      expr: [
        { match: { op: '==', left: { payload: { protocol: 'ip', field: 'daddr' } }, right: '10.8.0.9' } },
        { match: { op: '==', left: { payload: { protocol: 'udp', field: 'dport' } }, right: 47808 } },
        { reject: { type: 'icmp', expr: 'port-unreachable' } },
      ],
    },
  },
  {
    rule: {
      family: 'inet',
      table: 'filter',
      chain: 'output',
      handle: 15,
      expr: [
        { match: { op: '==', left: { meta: { key: 'oifname' } }, right: 'eth1' } },
        { match: { op: '!=', left: { payload: { protocol: 'tcp', field: 'dport' } }, right: 443 } },
        { reject: { type: 'tcp reset' } },
      ],
    },
  },
  {
    rule: {
      family: 'inet',
      table: 'filter',
      chain: 'output',
      handle: 16,
      expr: [
        { match: { op: '==', left: { payload: { protocol: 'tcp', field: 'dport' } }, right: 1502 } },
        { limit: { rate: 10, burst: 5, per: 'second' } },
        { accept: null },
      ],
    },
  },
  {
    rule: {
      family: 'inet',
      table: 'filter',
      chain: 'output',
      handle: 17,
      expr: [{ match: { op: '==', left: { payload: { protocol: 'tcp', field: 'dport' } }, right: 1502 } }, { drop: null }],
    },
  },
  {
    rule: {
      family: 'inet',
      table: 'filter',
      chain: 'output',
      handle: 18,
      expr: [
        { match: { op: '==', left: { meta: { key: 'skuid' } }, right: 1000 } },
        { match: { op: '==', left: { payload: { protocol: 'tcp', field: 'dport' } }, right: 102 } },
        { drop: null },
      ],
    },
  },
  { table: { family: 'ip', name: 'other', handle: 2 } },
  { chain: { family: 'ip', table: 'other', name: 'ends', handle: 1 } },
  { chain: { family: 'ip', table: 'other', name: 'out', handle: 2, type: 'filter', hook: 'output', prio: 10, policy: 'accept' } },
  { rule: { family: 'ip', table: 'other', chain: 'ends', handle: 3, expr: [{ drop: null }] } },
  {
    rule: {
      family: 'ip',
      table: 'other',
      chain: 'out',
      handle: 4,
      expr: [{ match: { op: '==', left: { payload: { protocol: 'tcp', field: 'dport' } }, right: 3306 } }, { goto: { target: 'ends' } }],
    },
  },
]
const texts = `table inet filter { # handle 1
	set plant { # handle 4
		type ipv4_addr
		flags interval
		elements = { 10.8.0.0/24, 10.9.0.5 }
	}

	chain special { # handle 1
		tcp dport 1883 accept # handle 5
		return # handle 6
	}

	chain input { # handle 2
		type filter hook input priority filter; policy drop;
		ct state established,related accept # handle 7
		iifname "lo" accept # handle 8
		tcp dport { 22, 80 } accept # handle 10
		tcp dport 4840-4843 ip saddr 10.8.0.0/24 accept # handle 11
		ip saddr 10.1.0.0/16 jump special # handle 12
	}

	chain output { # handle 3
		type filter hook output priority filter; policy accept;
		ip daddr @plant tcp dport 502 counter packets 0 bytes 0 drop # handle 13
		ip daddr 10.8.0.9 udp dport 47808 reject with icmp port-unreachable # handle 14
		oifname "eth1" tcp dport != 443 reject with tcp reset # handle 15
		tcp dport 1502 limit rate 10/second accept # handle 16
		tcp dport 1502 drop # handle 17
		meta skuid 1000 tcp dport 102 drop # handle 18
	}
}
table ip other { # handle 2
	chain ends { # handle 1
		drop # handle 3
	}

	chain out { # handle 2
		type filter hook output priority filter + 10; policy accept;
		tcp dport 3306 goto ends # handle 4
	}
}
`
const json = JSON.stringify({ nftables: rules })

const out = (to: string, port: number, more: Partial<FirstPacket> = {}) =>
  filterOf(json, texts, { hook: 'output', carries: 'tcp', to, port, by: 'eth0', ...more })
const into = (port: number, more: Partial<FirstPacket> = {}) => filterOf(json, texts, { hook: 'input', carries: 'tcp', port, ...more })

describe('the packet filter of this machine', () => {
  it('lets out what no rule stops', () => {
    expect(out('10.8.1.4', 502)).toEqual({ outcome: 'lets through' })
    expect(out('10.8.0.4', 503)).toEqual({ outcome: 'lets through' })
    expect(out('10.8.0.4', 502, { carries: 'udp' })).toEqual({ outcome: 'lets through' })
  })

  it('stops what a rule names, by set, range and single address, and shows the rule as it was written', () => {
    const rule = 'ip daddr @plant tcp dport 502 counter packets 0 bytes 0 drop # handle 13'
    expect(out('10.8.0.4', 502)).toEqual({ outcome: 'stops', how: 'drop', rule, place: 'inet filter output' })
    expect(out('10.9.0.5', 502)).toMatchObject({ outcome: 'stops' })
    expect(out('10.8.0.9', 47808, { carries: 'udp' })).toMatchObject({ outcome: 'stops', how: 'reject', place: 'inet filter output' })
  })

  it('goes by the interface where that is known, and leaves it open where it is not', () => {
    expect(out('10.1.1.1', 80, { by: 'eth1' })).toMatchObject({ outcome: 'stops', how: 'reject' })
    expect(out('10.1.1.1', 443, { by: 'eth1' })).toEqual({ outcome: 'lets through' })
    const { by: _, ...open } = { hook: 'output', carries: 'tcp', to: '10.1.1.1', port: 80, by: '' } as const
    expect(filterOf(json, texts, open)).toMatchObject({ outcome: 'depends', rule: expect.stringContaining('oifname "eth1"') as string })
  })

  it('follows chains into other chains and other tables', () => {
    expect(out('10.1.1.1', 3306)).toMatchObject({ outcome: 'stops', rule: 'drop # handle 3', place: 'ip other ends' })
    expect(filterOf(json, texts, { hook: 'output', carries: 'tcp', to: 'fd00::1', port: 3306, by: 'eth0' })).toEqual({
      outcome: 'lets through',
    })
  })

  it('does not claim to know what rules do that ask for more than the first packet shows', () => {
    expect(out('10.1.1.1', 102)).toMatchObject({ outcome: 'depends', rule: expect.stringContaining('skuid 1000') as string })
    // a limit may be reached or not; and of who comes in the address is seldom known beforehand
    expect(out('10.1.1.1', 1502)).toMatchObject({ outcome: 'depends', rule: expect.stringContaining('limit rate') as string })
    expect(into(4841)).toMatchObject({ outcome: 'depends', rule: expect.stringContaining('ip saddr 10.8.0.0/24 accept') as string })
  })

  it('lets in by rule, else goes by the policy of the chain', () => {
    expect(into(22)).toEqual({ outcome: 'lets through' })
    expect(into(4841, { from: '10.8.0.77' })).toEqual({ outcome: 'lets through' })
    expect(into(4841, { from: '10.9.0.77' })).toMatchObject({
      outcome: 'stops',
      rule: 'policy drop of the chain input',
      place: 'inet filter input',
    })
    expect(into(1883, { from: '10.1.2.3' })).toEqual({ outcome: 'lets through' })
    expect(into(1884, { from: '10.1.2.3' })).toMatchObject({ outcome: 'stops' })
    expect(into(1884, { by: 'lo' })).toEqual({ outcome: 'lets through' })
  })

  it('throws at what is no listing', () => {
    expect(() => filterOf('{}', '', { hook: 'input', carries: 'tcp', port: 1 })).toThrow()
  })
})
