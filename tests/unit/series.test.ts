import { describe, expect, it } from 'vitest'
import { countedUp, isCounted, patternOf } from '#core/tags/series'
import { linkContract } from '#shared/links/link'
import { seriesOf } from '#shared/series'
import { isFrom } from '#shared/sources/registry'
import { pointTag } from '#shared/tags'

/** Many tags after one. */

const links = new Map([
  [1, linkContract.parse({ name: 'Meters', kind: 'modbus-tcp', settings: { host: 'meters' } })],
  [2, linkContract.parse({ name: 'Arm', kind: 'opcua', settings: { address: 'arm:4840' } })],
])
const made = (point: Parameters<typeof pointTag>[0], path: string, count: number, step: number | null = null, address = point.address) =>
  seriesOf({ like: pointTag(point), path, address, count, step }, (id) => links.get(id))
const addresses = (rows: ReturnType<typeof made>) => rows.map(({ draft }) => (isFrom('point', draft) ? draft.source.address : ''))

describe('paths that count', () => {
  it('are as wide as the first number is written', () => {
    expect([0, 1, 98, 99].map((index) => countedUp('m_{01}/x_{7}', index))).toEqual(['m_01/x_7', 'm_02/x_8', 'm_99/x_105', 'm_100/x_106'])
    expect([isCounted('m_{01}'), isCounted('m_01'), isCounted('m_{a}')]).toEqual([true, false, false])
  })
  it.each([
    ['berth/1/module_07', 'berth/1/module_{07}'],
    ['berth/3/power', 'berth/{3}/power'],
    ['power', 'power_{1}'],
  ])('begin with %s as %s', (path, pattern) => {
    expect(patternOf(path)).toBe(pattern)
  })
})

describe('addresses of a series', () => {
  it('step by the width of the value, or as was said', () => {
    const float = { path: 'p', linkId: 1, address: '12:holding/40', type: 'float32' as const }
    expect(addresses(made(float, 'p_{1}', 3))).toEqual(['12:holding/40', '12:holding/42', '12:holding/44'])
    expect(addresses(made(float, 'p_{1}', 3, 10))).toEqual(['12:holding/40', '12:holding/50', '12:holding/60'])
    const bit = { path: 'b', linkId: 1, address: 'holding/94.14', type: 'bool' as const }
    expect(addresses(made(bit, 'b_{1}', 3))).toEqual(['holding/94.14', 'holding/94.15', 'holding/95.0'])
    expect(addresses(made(bit, 'b_{1}', 2, 16))).toEqual(['holding/94.14', 'holding/95.14'])
  })
  it('count where nothing follows from the one before', () => {
    const node = { path: 'n', linkId: 2, address: 'nsu=urn:arm;s=Motor1', type: 'float64' as const }
    expect(addresses(made(node, 'n_{1}', 2, null, 'nsu=urn:arm;s=Motor{1}'))).toEqual(['nsu=urn:arm;s=Motor1', 'nsu=urn:arm;s=Motor2'])
  })
  it('tell which of them cannot be, and which come twice', () => {
    const last = { path: 'p', linkId: 1, address: 'holding/65532', type: 'float32' as const }
    expect(made(last, 'p_{1}', 3).map(({ problems }) => problems.map(({ path }) => path))).toEqual([[], [], ['source.address']])
    expect(made({ ...last, address: 'holding/0' }, 'p', 2).map(({ problems }) => problems.length)).toEqual([0, 1])
  })
})
