import { describe, expect, it } from 'vitest'
import type { Facts, RouteFound } from '#core/diagnosis/facts'
import { causesOf } from '#core/diagnosis/rank'
import { wayRoundOf } from '#core/diagnosis/wayRound'
import { fault } from '#core/faults/catalogue'

const router: RouteFound = { outcome: 'through a router', by: 'eth0', from: '10.1.0.2', router: '10.1.0.1' }
const facts = (more: Partial<Facts>): Facts => ({
  ...{ step: 'Port', isPart: false, ms: 3000, lastGood: null, breaks: [], beside: [], changes: [], now: 0 },
  fault: fault('tcp.no-answer', { host: '10.8.0.4', port: 502, ms: 3000 }),
  goal: { speaks: 'Modbus TCP', host: '10.8.0.4', port: 502, carries: 'tcp', usualPort: 502 },
  route: router,
  neighbour: { place: '10.1.0.1', outcome: 'answers' },
  filter: { outcome: 'lets through' },
  echo: { outcome: 'answers', ms: 3 },
  ...more,
})
const offered = (more: Partial<Facts>) => {
  const all = facts(more)
  const causes = causesOf(all)
  return { first: causes[0]!.id, way: wayRoundOf(all, causes) }
}

describe('a relay', () => {
  it('is offered where a firewall on the way swallows the port', () => {
    expect(offered({})).toEqual({ first: 'port-filtered', way: { reaches: '10.8.0.4, TCP 502' } })
  })

  it('is offered where there is no way to that network', () => {
    expect(offered({ route: { outcome: 'none' }, fault: fault('tcp.unreachable', { host: '10.8.0.4', port: 502 }) }).way).not.toBe(null)
  })

  it.each<[string, Partial<Facts>]>([
    [
      'both stand in one network',
      { route: { outcome: 'same network', by: 'eth0', from: '10.8.0.2' }, neighbour: { place: '10.8.0.4', outcome: 'silent' } },
    ],
    ['our own firewall stops it', { filter: { outcome: 'stops', rule: 'drop', place: 'inet filter output', how: 'drop' } }],
    ['nobody listens there', { fault: fault('tcp.refused', { host: '10.8.0.4', port: 502 }) }],
    ['one part of the far side is silent', { isPart: true }],
    ['it is no matter of the network', { goal: undefined as never }],
  ])('is not offered where %s', (_where, more) => {
    expect(offered(more).way).toBe(null)
  })
})
