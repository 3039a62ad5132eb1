import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { tables } from '#core/modbus/address'
import { decoderFor } from '#core/modbus/decoding'
import { modbusTypes, wordOrders } from '#core/modbus/layout'
import { clashesOf } from '#core/modbus/map/clashes'
import { mapEntry, placeOf, type MapEntry } from '#core/modbus/map/entry'
import { markerOf } from '#core/modbus/map/marker'
import { proposed, usualWays, type Placeable } from '#core/modbus/map/propose'
import { RegisterMap } from '#core/modbus/map/registerMap'
import { mapTable, readMapTable, referenceOf } from '#core/modbus/map/table'
import { dataTypes } from '#core/tags/types'
import { modbusServerSettings } from '#shared/outlets/modbusServer'

const entry = (path: string, at: string, more: Partial<MapEntry> = {}): MapEntry =>
  mapEntry.parse({ path, at, type: at.includes('coil') || at.includes('discrete') ? 'bool' : 'uint16', ...more })

const problemOf = (given: object) => {
  const read = mapEntry.safeParse(given)
  return read.success ? null : read.error.issues.map(({ path, message }) => `${path.join('.')}: ${message}`).join(' | ')
}

const tags: fc.Arbitrary<Placeable[]> = fc.uniqueArray(
  fc.record({ path: fc.stringMatching(/^[a-z]{1,4}\/[a-z]{1,4}$/), type: fc.constantFrom(...dataTypes), writable: fc.boolean() }),
  { selector: ({ path }) => path, maxLength: 60 },
)

describe('an entry of a map', () => {
  it('takes both notations of an address', () => {
    expect(entry('a', '400041').at).toBe('holding/40')
    expect(entry('a', '2:Holding/40').at).toBe('2:holding/40')
    expect(referenceOf(entry('a', 'holding/40'))).toBe('40041')
    expect(referenceOf(entry('a', '3:input/0'))).toBe('3:30001')
  })

  it('is told where it goes wrong', () => {
    expect(problemOf({ path: 'a', at: 'holding/70000', type: 'uint16' })).toMatch(/^at: .*past the end/)
    expect(problemOf({ path: 'a', at: 'coil/0', type: 'float32' })).toBe('type: One bit holds a bool, no float32.')
    expect(problemOf({ path: 'a', at: 'holding/0.3', type: 'uint16' })).toBe('type: One bit holds a bool, no uint16.')
    expect(problemOf({ path: 'a', at: 'holding/65535', type: 'float32' })).toMatch(/^at: It would end past/)
    expect(problemOf({ path: 'a', at: 'holding/0', type: 'string' })).toMatch(/^length:/)
    expect(problemOf({ path: 'a', at: 'holding/0', type: 'bool', gain: 10 })).toMatch(/^gain:/)
    expect(problemOf({ path: 'a\u0000b', at: 'holding/0', type: 'bool' })).toMatch(/^path:/)
    expect(problemOf({ path: 'a', at: 'holding/0', type: 'uint16', gain: 0 })).toMatch(/^gain:/)
  })
})

describe('clashes', () => {
  it('are found as looking at each pair finds them', () => {
    const some = fc.array(
      fc.record({
        at: fc.tuple(fc.constantFrom('holding', 'input', '2:holding'), fc.integer({ min: 0, max: 30 })).map(([t, o]) => `${t}/${o}`),
        type: fc.constantFrom('uint16' as const, 'float32' as const, 'int64' as const),
        length: fc.constant(0),
      }),
      { maxLength: 12 },
    )
    fc.assert(
      fc.property(some, (entries) => {
        const places = entries.map((one) => placeOf(one, 1)!)
        const expected = entries.filter((_, i) =>
          places.some((other, k) => {
            const one = places[i]!
            const meets = other.unit === one.unit && other.table === one.table
            return k !== i && meets && other.offset < one.offset + one.count && one.offset < other.offset + other.count
          }),
        )
        const found = new Set(clashesOf(entries, 1).flatMap(({ at, with: other }) => [at, other]))
        expect([...found].sort((a, b) => a - b)).toEqual(entries.flatMap((one, i) => (expected.includes(one) ? [i] : [])))
      }),
    )
  })

  it('of bits of one register are none, of one bit twice, or with a whole value, they are', () => {
    const bits = [entry('a', 'holding/7.0', { type: 'bool' }), entry('b', 'holding/7.4', { type: 'bool' })]
    expect(clashesOf(bits, 1)).toEqual([])
    expect(clashesOf([...bits, entry('c', 'holding/7.4', { type: 'bool' })], 1)).toEqual([{ at: 2, with: 1 }])
    expect(clashesOf([...bits, entry('c', 'holding/6', { type: 'float32' })], 1).length).toBeGreaterThan(0)
    expect(clashesOf([entry('a', 'holding/0'), entry('b', '2:holding/0')], 1)).toEqual([])
  })

  it('are refused when an outlet is saved, at the later line', () => {
    const read = modbusServerSettings.safeParse({ map: [entry('a', 'holding/0', { type: 'float32' }), entry('b', '40002')] })
    expect(read.error!.issues.map(({ path, message }) => [path.join('.'), message])).toEqual([['map.1.at', 'a lies at holding/0 already.']])
  })
})

describe('a proposal', () => {
  it('gives every tag that has a form one place, none on another, and moves nothing that was there', () => {
    fc.assert(
      fc.property(tags, tags, fc.boolean(), fc.constantFrom('coils' as const, 'bits' as const), (first, more, apart, bools) => {
        const ways = { ...usualWays, apart, bools }
        const before = proposed(first, [], ways)
        const after = proposed([...first, ...more], before.entries, ways)
        const all = [...before.entries, ...after.entries]
        expect(clashesOf(all, 1)).toEqual([])
        for (const one of all) expect(problemOf(one)).toBe(null)
        const paths = all.map(({ path }) => path)
        expect(new Set(paths).size).toBe(paths.length)
        const places = new Set([...paths, ...before.left, ...after.left].map((one) => (typeof one === 'string' ? one : one.path)))
        expect(places).toEqual(new Set([...first, ...more].map(({ path }) => path)))
      }),
    )
  })

  it('is packed, from where it was asked to begin', () => {
    const made = proposed(
      [
        { path: 'b', type: 'float64', writable: false },
        { path: 'a', type: 'int16', writable: true },
        { path: 'c', type: 'bool', writable: false },
        { path: 'd', type: 'bool', writable: true },
        { path: 'e', type: 'float32[]', writable: false },
      ],
      [],
      { ...usualWays, from: 100 },
    )
    expect(made.entries.map(({ path, at, type }) => [path, at, type])).toEqual([
      ['a', 'holding/100', 'int16'],
      ['b', 'holding/101', 'float32'],
      ['c', 'coil/100', 'bool'],
      ['d', 'coil/101', 'bool'],
    ])
    expect(made.left).toEqual([{ path: 'e', why: 'float32[] has no place in registers' }])
  })

  it('ends with the table', () => {
    const many = Array.from({ length: 3 }, (_, i) => ({ path: `t${i}`, type: 'float64' as const, writable: false }))
    const { entries, left } = proposed(many, [], { ...usualWays, from: 65_532 })
    expect([entries.length, left.length]).toEqual([2, 1])
  })
})

describe('what stands in the registers', () => {
  const numbers = modbusTypes.filter((type) => type !== 'bool' && type !== 'string')

  it('of every type and order reads as what was told', () => {
    fc.assert(
      fc.property(fc.constantFrom(...numbers), fc.constantFrom(...wordOrders), fc.integer({ min: 0, max: 127 }), (type, order, value) => {
        const map = new RegisterMap([entry('a', 'holding/3', { type, order })], { unit: 1, gaps: 'refuse', notGood: 'marker' })
        expect(map.tell(0, type.includes('64') && type !== 'float64' ? BigInt(value) : value, true)).toBe(null)
        const { count } = map.placeAt(0)!
        const reply = map.read(1, 3, 3, count) as Buffer
        expect(Number(decoderFor({ type, order, bit: null, length: 0 })(reply, 2))).toBe(value)
      }),
    )
  })

  it('is the marker of its type while there is nothing good, and out of reach where that was chosen', () => {
    const entries = numbers.map((type, i) => entry(`t${i}`, `holding/${10 * i}`, { type }))
    const map = new RegisterMap(entries, { unit: 1, gaps: 'zero', notGood: 'marker' })
    for (const [i, type] of numbers.entries()) {
      const reply = map.read(1, 3, 10 * i, 4) as Buffer
      expect(decoderFor({ type, order: 'ABCD', bit: null, length: 0 })(reply, 2)).toEqual(markerOf(type))
    }
    const strict = new RegisterMap(entries, { unit: 1, gaps: 'zero', notGood: 'refuse' })
    strict.tell(1, 5, true)
    expect(strict.read(1, 3, 10, 1)).toBeInstanceOf(Buffer)
    expect(strict.read(1, 3, 10, 11)).toMatchObject({ exception: 4 })
    strict.tell(1, 5, false)
    expect(strict.read(1, 3, 10, 1)).toMatchObject({ exception: 4 })
  })

  it('answers only whole ranges where gaps are refused', () => {
    const map = new RegisterMap([entry('a', 'coil/2'), entry('b', 'coil/3'), entry('c', 'coil/9')], {
      unit: 1,
      gaps: 'refuse',
      notGood: 'marker',
    })
    for (let i = 0; i < 3; i++) map.tell(i, true, true)
    expect(map.read(1, 1, 2, 2)).toEqual(Buffer.from([1, 1, 0b11]))
    expect(map.read(1, 1, 2, 3)).toMatchObject({ exception: 2 })
    expect(map.read(1, 1, 2, 0)).toMatchObject({ exception: 3 })
    expect(map.read(1, 1, 2, 2001)).toMatchObject({ exception: 3 })
    expect(map.read(1, 2, 2, 1)).toMatchObject({ exception: 2 })
  })

  it('is written whole or not at all', () => {
    const entries = [
      entry('a', 'holding/0', { type: 'float32' }),
      entry('b', 'holding/2', { gain: 0.1 }),
      entry('c', 'holding/3.2', { type: 'bool' }),
    ]
    const map = new RegisterMap(entries, { unit: 1, gaps: 'refuse', notGood: 'marker' })
    expect(map.wanted(1, { fc: 16, offset: 1, registers: [1, 2] })).toMatchObject({ exception: 2 })
    expect(map.wanted(1, { fc: 16, offset: 0, registers: [1] })).toMatchObject({ exception: 2 })
    expect(map.wanted(1, { fc: 16, offset: 0, registers: [0x3f80, 0, 25, 4] })).toEqual({
      ok: true,
      values: [
        { index: 0, value: 1 },
        { index: 1, value: 2.5 },
        { index: 2, value: true },
      ],
    })
    // bit 2 set by a mask, everything else as it is (6.16)
    expect(map.wanted(1, { fc: 22, offset: 3, andMask: 0xfffb, orMask: 4 })).toEqual({ ok: true, values: [{ index: 2, value: true }] })
    expect(map.wanted(1, { fc: 22, offset: 3, andMask: 0xffff, orMask: 0 })).toEqual({ ok: true, values: [] })
  })
})

describe('a map as a table', () => {
  it('comes back as it was', () => {
    const entries = [
      entry('a/b', 'holding/0', { type: 'float32', order: 'CDAB', gain: 0.1 }),
      entry('=c', '2:holding/7.3', { type: 'bool' }),
      entry('t', 'input/8', { type: 'string', length: 16 }),
      entry('t', 'discrete/1', { tells: 'good' }),
    ]
    expect(readMapTable(mapTable(entries))).toEqual({ entries, problems: [] })
  })

  it('is read with semicolons, commas in numbers, and references alone', () => {
    const { entries, problems } = readMapTable('Tag;Reference;Type;Gain\r\na;40011;int16;0,1\r\nb;10001;bool;\r\n')
    expect(problems).toEqual([])
    expect(entries.map(({ path, at, gain }) => [path, at, gain])).toEqual([
      ['a', 'holding/10', 0.1],
      ['b', 'discrete/0', 1],
    ])
  })

  it('says line by line what cannot be read, and takes the rest', () => {
    const { entries, problems } = readMapTable('path,address,type\na,holding/0,uint16\nb,holding/x,uint16\nc,holding/1,byte\nd,,bool\n')
    expect(entries.map(({ path }) => path)).toEqual(['a'])
    expect(problems.map(({ line }) => line)).toEqual([3, 4, 5])
    expect(readMapTable('').problems).toEqual([{ line: 1, message: 'The file is empty.' }])
    expect(readMapTable('path,type\n').problems[0]!.message).toMatch(/where they lie/)
    expect(tables).toHaveLength(4)
  })
})
