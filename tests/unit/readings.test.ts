import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { encodeRegisters } from '#core/modbus/decoding'
import { wordOrders, type ModbusType, type WordOrder } from '#core/modbus/layout'
import { takesOf } from '#core/modbus/taking'
import { gainTo, parseFaceplate } from '#core/readings/faceplate'
import { layoutsOf, type Field } from '#core/readings/layout'
import { formText, readingsAt } from '#core/readings/readings'
import { reasonsFor } from '#core/readings/reasons'
import { oneSample, samplesFrom, type WordSamples } from '#core/readings/samples'
import { seriesOf } from '#core/readings/series'
import { madeBlock, makers, randomFrom, type MadeField } from '../support/madeBlocks'

const words = (value: number | bigint | string, type: ModbusType, order: WordOrder = 'ABCD', length = 0) =>
  encodeRegisters(value, { type, order, bit: null, length })
const textOf = (all: number[], label: string, time?: number) =>
  readingsAt(oneSample(all, time), 0).find(({ form }) => formText(form) === label)?.text
const now = Date.UTC(2026, 10, 26, 9, 30)

describe('readings of the same words', () => {
  it('list every form and order that the words allow, and only those', () => {
    const one = readingsAt(oneSample([1]), 0).map(({ form }) => formText(form))
    expect(one).toEqual(['uint16', 'int16', 'bits', 'BCD, 4 digits'])
    const two = readingsAt(oneSample([0x2065, 0x47f1]), 0)
    expect(two.find(({ form }) => formText(form) === 'float32 CDAB')!.value).toBe(123456.7890625)
    expect(two.some(({ form }) => form.kind === 'float64')).toBe(false)
  })

  it('read each number that a point reads, in every order, as the point reads it', () => {
    const types = ['uint16', 'int16', 'uint32', 'int32', 'float32', 'float64'] as const
    fc.assert(
      fc.property(
        fc.constantFrom(...types),
        fc.constantFrom(...wordOrders),
        fc.integer({ min: -30_000, max: 30_000 }),
        (type, order, number) => {
          const value = type.startsWith('uint') ? Math.abs(number) : number
          const own = type.endsWith('16') ? 'ABCD' : order
          const found = readingsAt(oneSample(words(value, type, own)), 0).find(
            ({ form }) => form.kind === type && (form.order === null || form.order === order),
          )!
          expect(found.value).toBe(value)
          expect(takesOf(found.form)).toEqual({ type, options: form(type, order) })
        },
      ),
    )
    function form(type: string, order: WordOrder) {
      return type.endsWith('16') ? {} : { order }
    }
  })

  it('are texts in both orders of their bytes, digits, flags, and whole numbers to the last digit', () => {
    const name = words('Pump 12', 'string', 'ABCD', 8)
    expect(textOf(name, 'text, 8 bytes')).toBe('“Pump 12”')
    const swapped = name.map((word) => ((word & 255) << 8) | (word >> 8))
    expect(textOf(swapped, 'text, 8 bytes, swapped')).toBe('“Pump 12”')
    expect(textOf([0x1234], 'BCD, 4 digits')).toBe('1234')
    expect(textOf([0x12, 0x3456], 'BCD, 8 digits ABCD')).toBe('123\u202f456')
    expect(textOf([0x12, 0x345a], 'BCD, 8 digits ABCD')).toBeUndefined()
    expect(textOf([0x0205], 'bits')).toBe('0000 0010 0000 0101')
    expect(textOf(words(2n ** 63n + 1n, 'uint64', 'CDAB'), 'uint64 CDAB')?.replaceAll('\u202f', '')).toBe('9223372036854775809')
    expect(textOf(words(-5n, 'int64'), 'int64 ABCD')).toBe('−5')
  })

  it('are moments, as devices keep them', () => {
    expect(textOf(words(now / 1000, 'uint32', 'CDAB'), 'seconds since 1970 CDAB')).toBe('2026-11-26T09:30:00Z')
    expect(textOf(words(BigInt(now) + 5n, 'uint64'), 'ms since 1970 ABCD')).toBe('2026-11-26T09:30:00.005Z')
    // IEC 60870-5-4, 6.8: milliseconds low octet first, minute, hour, day with the weekday above it, month, year
    const octets = [0x88, 0x13, 30, 9, 26 | (4 << 5), 11, 26, 0]
    const seven = [0, 2, 4, 6].map((i) => octets[i]! * 256 + octets[i + 1]!)
    expect(textOf(seven, 'time in 7 octets')).toBe('2026-11-26T09:30:05Z')
    expect(textOf([2026, 11, 26, 9, 30, 5], 'year, month … second')).toBe('2026-11-26T09:30:05Z')
    expect(textOf([2026, 13, 26, 9, 30, 5], 'year, month … second')).toBeUndefined()
  })
})

describe('what speaks for a reading', () => {
  const told = (rows: number[][], kind: string, order: WordOrder | null = null) => {
    const samples = samplesFrom(rows.map((row, i) => ({ at: now + 250 * i, words: row })))
    const found = readingsAt(samples, 0).find(({ form }) => form.kind === kind && form.order === order)!
    return found.reasons.map(({ speaks, text }) => `${speaks}: ${text}`)
  }
  const moving = [1500, 1501.5, 1503, 1501, 1498].map((value) => words(value, 'float32', 'CDAB'))

  it('is that it is steady and of an everyday size; and against one, that it jumps or is out of all measure', () => {
    expect(told(moving, 'float32', 'CDAB')).toEqual([
      'for: of an everyday size',
      expect.stringMatching(/^for: steady: it moves by about [12]/),
    ])
    expect(told(moving, 'float32', 'ABCD').join()).toMatch(/against/)
    expect(told([words(750, 'float32')], 'float32', 'ABCD')).toEqual(['for: a round number'])
    expect(told([words(5, 'uint32')], 'uint32', 'ABCD')).toEqual(['against: its upper half was never used'])
  })

  it('is that it counts up, goes as our clock does, or changes bit by bit', () => {
    expect(
      told(
        [70_000, 70_004, 70_009].map((value) => words(value, 'uint32')),
        'uint32',
        'ABCD',
      ),
    ).toContain('for: it only ever counts up')
    const clock = Array.from({ length: 9 }, (_, i) => words(Math.floor((now + 250 * i) / 1000), 'uint32'))
    expect(told(clock, 'unix32', 'ABCD')).toEqual([expect.stringMatching(/from this machine’s clock/), 'for: it goes as our clock does'])
    expect(told([[5], [5], [13], [12]], 'bits')).toEqual(['for: single bits change'])
    expect(told([[5], [0xff00]], 'bits')).toEqual(['against: many bits change at once'])
  })
})

describe('what a faceplate shows', () => {
  it.each([
    ['70.3', 70.3, 0.05],
    ['1 496,25', 1496.25, 0.005],
    ['−12', -12, 0.5],
    ['.5', 0.5, 0.05],
  ])('%s is a number as exact as its last digit', (text, value, tolerance) => {
    expect(parseFaceplate(text)!.value).toBe(value)
    expect(parseFaceplate(text)!.tolerance).toBeCloseTo(tolerance)
  })

  it('is none where it is no number', () => {
    for (const text of ['', 'kW', '1.2.3', '--5', 'NaN', '1e5']) expect(parseFaceplate(text)).toBeNull()
  })

  it('is found at the powers of ten by which devices send whole numbers', () => {
    const shown = parseFaceplate('70.3')!
    expect([703, 70.31, 7030, 8, 69.9, 0.0703, 712].map((raw) => gainTo(raw, shown))).toEqual([0.1, 1, 0.01, null, 1, 1000, null])
    expect(gainTo(0, parseFaceplate('0')!)).toBe(1)
    expect(gainTo(NaN, shown)).toBeNull()
  })
})

/** The same registers, and the same value at every moment. */
const isSame = (samples: WordSamples, found: Field, meant: MadeField) => {
  if (found.at !== meant.at || found.width !== meant.width) return false
  const [a, b] = [seriesOf(samples, found.at, found), seriesOf(samples, meant.at, meant)]
  if (!a || !b) return found.kind === meant.kind && found.order === meant.order
  return a.values.every((value, i) => value === b.values[i])
}
const isRight = (seed: number) => {
  const { samples, fields } = madeBlock(seed)
  const [best] = layoutsOf(samples)
  return fields.every((meant) => best!.fields.some((found) => isSame(samples, found, meant)))
}

describe('the layout of unknown registers', () => {
  it('comes first in at least nine of ten blocks that are made afresh, with ten seconds of changes', () => {
    const first = Math.floor(Math.random() * 1e9)
    const wrong = Array.from({ length: 150 }, (_, i) => first + i).filter((seed) => !isRight(seed))
    expect(wrong.length, `wrong: ${wrong.join(', ')}`).toBeLessThanOrEqual(15)
  }, 60_000)

  it.each(wordOrders)('finds each kind of field among floats in %s', (order) => {
    const random = randomFrom(7)
    for (const name of Object.keys(makers)) {
      const made = ['float32', 'float32', name, 'float32', 'float32'].map((one) => makers[one]!(random, order))
      const rows = Array.from({ length: 40 }, (_, i) => ({
        at: now + 250 * i,
        words: made.flatMap(({ words: of }) => of(i / 4, now + 250 * i)),
      }))
      const samples = samplesFrom(rows)
      const [best] = layoutsOf(samples)
      expect(
        best!.fields.map(({ kind }) => kind),
        name,
      ).toEqual(made.map(({ form }) => form.kind))
      expect(best!.order).toBe(order)
    }
  })

  it('covers every register once, whatever is in them, from one moment or many', () => {
    const rows = fc.array(fc.array(fc.integer({ min: 0, max: 65_535 }), { minLength: 9, maxLength: 9 }), { minLength: 1, maxLength: 6 })
    fc.assert(
      fc.property(rows, (all) => {
        const samples = samplesFrom(all.map((row, i) => ({ at: now + i, words: row })))
        for (const { fields, bits } of layoutsOf(samples)) {
          expect(fields.flatMap(({ at, width }) => Array.from({ length: width }, (_, i) => at + i))).toEqual([0, 1, 2, 3, 4, 5, 6, 7, 8])
          expect(Number.isFinite(bits)).toBe(true)
          for (const field of fields) expect(reasonsFor(samples, field.at, field)).toBeInstanceOf(Array)
        }
      }),
      { numRuns: 40 },
    )
  })

  it('of nothing is nothing', () => {
    expect(layoutsOf({ times: [now], words: [] })[0]!.fields).toEqual([])
  })
})
