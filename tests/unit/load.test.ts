import { describe, expect, it } from 'vitest'
import { busiest, type LoadPoint } from '#core/links/load'
import { protocolOf } from '#core/links/registry'
import { modbusTcpSettings } from '#core/modbus/settings'
import { opcuaSettings } from '#core/opcua/settings'

/** What reading asks of a far side, worked out before it is done. */

let id = 0
const point = (address: string, type: LoadPoint['type'], interval: number | null = null, options = {}): LoadPoint => ({
  ...{ id: ++id, path: `t/${id}`, address, type, options, access: 'read', interval },
})
type Fences = Record<string, Record<string, number[]>>
const modbus = (points: LoadPoint[], settings: object = {}, answers: Record<string, number> = { 11: 20, 12: 40 }, fences: Fences = {}) =>
  protocolOf('modbus-tcp').load(points, modbusTcpSettings.parse({ host: 'meters', unit: 11, ...settings }), (unit) =>
    unit! in answers ? { answerMs: answers[unit!]!, fences: fences[unit!] ?? {} } : null,
  )

describe('the load on a Modbus device', () => {
  it('counts requests by unit and interval, and what they carry', () => {
    const { parts, busy } = modbus([
      ...[point('holding/0', 'float32'), point('holding/2', 'float32'), point('holding/10', 'int16'), point('holding/200', 'int16')],
      ...[point('holding/4', 'int16', 100), point('12:input/0', 'int16')],
    ])
    expect(
      parts.map(({ unit, rounds }) => [
        unit,
        rounds.map(({ interval, tags, requests, carried, wanted, ms }) => [interval, tags, requests, carried, wanted, ms]),
      ]),
    ).toEqual([
      [
        '11',
        [
          [100, 1, 1, 1, 1, 20],
          [1000, 4, 2, 12, 6, 40],
        ],
      ],
      ['12', [[1000, 1, 1, 1, 1, 40]]],
    ])
    expect(parts[0]).toMatchObject({ busy: expect.closeTo(0.24, 9) as number, fastest: 40 })
    // two units on two connections: the busier one counts
    expect(busy).toBeCloseTo(0.24, 9)
    expect(modbus([point('holding/0', 'int16'), point('12:holding/0', 'int16')], { requests: { connections: 1 } }).busy).toBeCloseTo(
      0.06,
      9,
    )
  })

  it('counts what several tags want once, and follows the limits of the link', () => {
    const twice = [point('holding/0', 'float32'), point('holding/0', 'float32'), point('holding/1', 'int16')]
    expect(modbus(twice).parts[0]!.rounds[0]).toMatchObject({ carried: 2, wanted: 2 })
    const many = Array.from({ length: 50 }, (_, i) => point(`holding/${i}`, 'int16'))
    expect(modbus(many, { requests: { registers: 10 } }).parts[0]!.rounds[0]!.requests).toBe(5)
    expect(modbus(many, { requests: { registers: 10, pause: 30 } }).parts[0]!.fastest).toBe(250)
  })

  it('asks around what the device was seen not to have', () => {
    const points = [point('holding/0', 'int16'), point('holding/3', 'int16')]
    const requests = (fences: Fences) => modbus(points, {}, { 11: 20 }, fences).parts[0]!.rounds[0]!.requests
    expect([requests({}), requests({ 11: { holding: [2] } }), requests({ 11: { input: [2] } })]).toEqual([1, 2, 1])
  })

  it('names the tags that cost a request of their own, dearest first', () => {
    const fast = point('holding/9000', 'int16', 100)
    const { costly } = modbus([
      ...Array.from({ length: 20 }, (_, i) => point(`holding/${i}`, 'int16')),
      point('holding/5000', 'int16'),
      fast,
    ])
    expect(costly.map(({ path, cost, sharedWith }) => [path, cost, sharedWith]).slice(0, 2)).toEqual([
      [fast.path, 200, 0],
      [expect.any(String), 20, 0],
    ])
    expect(costly[2]).toMatchObject({ cost: 1, sharedWith: 19 })
  })

  it('knows no times before anything answered', () => {
    expect(modbus([point('holding/0', 'int16')], {}, {})).toMatchObject({ busy: null, costly: [], parts: [{ busy: null, fastest: null }] })
    expect(modbus([])).toEqual({ parts: [], busy: 0, costly: [] })
  })
})

describe('the load on an OPC UA server', () => {
  it('is a subscription per interval with an item per node', () => {
    const { parts } = protocolOf('opcua').load(
      [point('i=1', 'float64', null, { member: 'X' }), point('i=1', 'float64', null, { member: 'Y' }), point('i=2', 'float64', 100)],
      opcuaSettings.parse({ address: 'arm:4840' }),
      () => null,
    )
    expect(parts[0]!.rounds.map(({ interval, tags, carried }) => [interval, tags, carried])).toEqual([
      [100, 1, 1],
      [500, 2, 1],
    ])
  })
})

describe('parts over connections', () => {
  it.each<[(number | null)[], number, number | null]>([
    [[0.5, 0.4, 0.3, 0.2], 2, 0.7],
    [[0.9, 0.1], 4, 0.9],
    [[], 4, 0],
    [[0.2, null], 2, null],
  ])('%j over %d: %s', (parts, connections, share) => {
    expect(busiest(parts, connections)).toBe(share)
  })
})
