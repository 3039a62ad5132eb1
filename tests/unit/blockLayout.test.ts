import { describe, expect, it } from 'vitest'
import { encodeRegisters } from '#core/modbus/decoding'
import { layoutOf } from '../../server/worker/blockLayout'

const float = (value: number) => encodeRegisters(value, { type: 'float32', order: 'CDAB', bit: null, length: 0 })
const addresses = Array.from({ length: 9 }, (_, i) => `holding/${i}`)
const asked = { kind: 'modbus-tcp' as const, addresses, open: null }
const wrong = 'exception 2'
/** Two floats, three registers that are not there, and a float; ten seconds of it. */
const block = (edit: (row: (number | null)[], i: number) => (number | null)[] = (row) => row) => ({
  times: Array.from({ length: 40 }, (_, i) => 1_790_000_000_000 + 250 * i),
  words: Array.from({ length: 40 }, (_, i) =>
    edit([...float(1500 + Math.sin(i / 5)), ...float(230 + i / 100), null, null, null, ...float(50)], i),
  ),
  problems: [null, null, null, null, wrong, wrong, wrong, null, null],
})

describe('the layout of a block', () => {
  it('is found piece by piece around what is not there, in one order of words', () => {
    const found = layoutOf(block(), asked)
    expect(found.fields.map(({ at, label }) => [at, label])).toEqual([0, 2, 7].map((at) => [at, 'float32 CDAB']))
    expect(found).toMatchObject({
      ...{ order: 'CDAB', moments: 40, seconds: 9.75, changing: 2 },
      gaps: [{ address: 'holding/4', registers: 3, problem: wrong }],
    })
    expect(found.fields[0]!.takes).toEqual({ type: 'float32', options: { order: 'CDAB' } })
  })

  it('has registers that came later than others, while the link found out what the device refuses', () => {
    const late = block((row, i) => (i < 3 ? row.map((word, register) => (register === 3 ? null : word)) : row))
    expect(layoutOf(late, asked).fields.map(({ at }) => at)).toEqual([0, 2, 7])
  })

  it('gives every reading of the register that is asked for, with which of them is meant', () => {
    const { readings } = layoutOf(block(), { ...asked, open: 2 })
    expect(readings.filter(({ inUse }) => inUse).map(({ label }) => label)).toEqual(['float32 CDAB'])
    expect(readings.find(({ label }) => label === 'float32 ABCD')!.reasons.some(({ speaks }) => speaks === 'against')).toBe(true)
    expect(layoutOf(block(), { ...asked, open: 5 }).readings).toEqual([])
  })

  it('of registers that never answered is empty', () => {
    const none = layoutOf({ times: [], words: [], problems: addresses.map(() => 'no answer') }, asked)
    expect(none).toMatchObject({ fields: [], moments: 0, seconds: 0, gaps: [{ registers: 9 }] })
  })
})
