import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import type { DataRecord, DeviceDescription, Item, SimpleType } from '#core/iolink/description/description'
import { readDescription } from '#core/iolink/description/read'
import { tension } from '../../standins/iolink/descriptions/tension'
import { bytesOf, imageReader, itemReader, putItem, type Raw } from '#core/iolink/image'

const read = (text: string, language?: string): DeviceDescription => {
  const found = readDescription(text, language)
  if (!found.ok) throw new Error(`line ${found.line}: ${found.problem}`)
  return found.description
}

describe('a device description', () => {
  it('tells who the device is, and what its process data mean', () => {
    const description = read(tension)
    expect(description).toMatchObject({
      ...{
        vendorId: 2641,
        deviceId: 1051,
        vendorName: 'Harrow Sensor Works',
        named: 'Cable tension sensor',
        releaseDate: '2026-03-02',
      },
      variants: [{ productId: 'HT-40', about: 'Up to 200 kN' }],
      events: [{ code: 36001, type: 'Warning', name: 'Overload' }],
      ...{ language: 'en', languages: ['en', 'de'] },
    })
    const { items, bits } = description.processData[0]!.in!
    expect(bits).toBe(32)
    expect(items.map(({ name, bitOffset, scale }) => [name, bitOffset, scale.gradient, scale.unit])).toEqual([
      ['Tension', 16, 0.01, 'kN'],
      ['Temperature', 8, 1, '°C'],
      ['State', 4, 1, ''],
      ['Slack', 1, 1, ''],
      ['Overload', 0, 1, ''],
    ])
    expect(items[0]).toMatchObject({ about: 'Pull on the shore cable', type: { kind: 'int', range: { low: -2000, high: 20_000 } } })
    expect(items[2]!.type.names).toEqual([
      { value: 0, name: 'measures' },
      { value: 1, name: 'warms up' },
      { value: 2, name: 'fails' },
    ])
  })

  it('scales what goes out as it says of that, not as what comes in', () => {
    const withOut = tension.replace(
      '<Name textId="T_PD"/></ProcessDataIn>',
      '<Name textId="T_PD"/></ProcessDataIn><ProcessDataOut id="PDO" bitLength="8"><Datatype xsi:type="RecordT" bitLength="8"><RecordItem subindex="1" bitOffset="0"><SimpleDatatype xsi:type="UIntegerT" bitLength="8"/><Name textId="T_Tension"/></RecordItem></Datatype><Name textId="T_PD"/></ProcessDataOut>',
    )
    const gradients = (text: string) => {
      const [data] = read(text).processData
      return [data!.in!.items[0]!.scale.gradient, data!.out!.items[0]!.scale.gradient]
    }
    expect(gradients(withOut)).toEqual([0.01, 1])
    const shown = '<ProcessDataRef processDataId="PDO"><ProcessDataRecordItemInfo subindex="1" gradient="0.5"/></ProcessDataRef>'
    expect(gradients(withOut.replace('<ProcessDataRefCollection>', `<ProcessDataRefCollection>${shown}`))).toEqual([0.01, 0.5])
    // some name the data as a whole, and mean what comes in
    expect(gradients(withOut.replace('processDataId="PDI"', 'processDataId="P_In"'))).toEqual([0.01, 1])
  })

  it('lists parameters of its own beside those that all devices have in the same place', () => {
    const { parameters } = read(tension)
    expect(parameters.map(({ index, access, name }) => [index, access, name])).toEqual([
      [16, 'ro', 'Vendor name'],
      [18, 'ro', 'Product name'],
      [21, 'ro', 'Serial number'],
      [24, 'rw', 'Application tag'],
      [36, 'ro', 'Device status'],
      [80, 'rw', 'Slack limit'],
      [81, 'rw', 'Filter'],
    ])
    expect(parameters.at(-2)!.record.items[0]!.scale).toMatchObject({ gradient: 0.01, unit: 'kN', digits: 2 })
  })

  it('is told in another language, where it has it, and else in its own', () => {
    const german = read(tension, 'de')
    expect(german.named).toBe('Seilzugsensor')
    expect(german.processData[0]!.in!.items.map(({ name }) => name)).toEqual(['Zugkraft', 'Temperature', 'State', 'Schlaff', 'Overload'])
    expect(read(tension, 'fr').language).toBe('en')
  })

  it.each([
    ['a type that nobody declared', ['datatypeId="D_State"', 'datatypeId="D_Other"'], 'there is no data type “D_Other”'],
    ['a type that is none', ['xsi:type="IntegerT" bitLength="8"', 'xsi:type="MotorT" bitLength="8"'], '“MotorT” is no data type'],
    ['a value outside of its data', ['bitOffset="16"', 'bitOffset="20"'], '“Tension” lies outside of its 32 bits'],
    [
      'more process data than there can be',
      ['<ProcessDataIn id="PDI" bitLength="32">', '<ProcessDataIn id="PDI" bitLength="512">'],
      '256 are the most',
    ],
    ['a number that is none', ['deviceId="1051"', 'deviceId="x"'], 'deviceId of “DeviceIdentity” is no whole number'],
    ['a part that is missing', ['<DeviceFunction>', '<Function>'], ''],
    ['another kind of document', ['<IODevice ', '<Project '], ''],
  ])('with %s is refused whole', (_, [from, to], problem) => {
    const text = tension.replace(from!, to!)
    expect(text).not.toBe(tension)
    expect(readDescription(text)).toMatchObject({ ok: false, problem: expect.stringContaining(problem) as string })
  })

  it('with entities is not read: they could stand for a file, or for more than any machine holds', () => {
    const bomb = tension.replace('<IODevice ', '<!DOCTYPE x [<!ENTITY a "aaaaaaaa"><!ENTITY f SYSTEM "file:///etc/passwd">]><IODevice ')
    expect(readDescription(bomb)).toMatchObject({ ok: false, problem: expect.stringContaining('declares a document type') as string })
  })

  it('of any text is read or refused, and never breaks off', () => {
    fc.assert(
      fc.property(fc.nat(tension.length), fc.nat(200), fc.string({ maxLength: 20 }), (at, cut, put) => {
        expect(readDescription(tension.slice(0, at) + put + tension.slice(at + cut))).toHaveProperty('ok')
      }),
    )
  })
})

describe('an image of process data', () => {
  it('is read by the description', () => {
    const record = read(tension).processData[0]!.in!
    const values: Raw[] = []
    imageReader(record)(Uint8Array.from([0x30, 0x39, 0xf6, 0x12]), values)
    expect(values).toEqual([12_345, -10, 1, true, false])
  })

  const type = (kind: SimpleType['kind'], bits: number): SimpleType => ({ kind, bits, names: [], range: null })
  const placed = fc
    .record({
      kind: fc.constantFrom('uint' as const, 'int' as const),
      bits: fc.integer({ min: 1, max: 64 }),
      total: fc.integer({ min: 1, max: 256 }),
      at: fc.nat(),
    })
    .filter(({ bits, total }) => bits <= total)
    .chain(({ kind, bits, total, at }) => {
      const item = { bitOffset: at % (total - bits + 1), type: type(kind, bits) }
      const [low, high] = kind === 'int' ? [-(2n ** BigInt(bits - 1)), 2n ** BigInt(bits - 1) - 1n] : [0n, 2n ** BigInt(bits) - 1n]
      return fc.record({ item: fc.constant(item), total: fc.constant(total), value: fc.bigInt({ min: low, max: high }) })
    })

  it('gives back what was put into it, wherever it lies, and leaves the other bits alone', () => {
    fc.assert(
      fc.property(placed, fc.boolean(), ({ item, total, value }, ones) => {
        const image = new Uint8Array(bytesOf({ bits: total })).fill(ones ? 0xff : 0)
        const given: Raw = item.type.bits > 32 ? value : Number(value)
        putItem(item, given, image)
        expect(itemReader(item, image.length)(image)).toBe(given)
        putItem(
          item,
          item.type.kind === 'int' && ones
            ? -1
            : ones
              ? item.type.bits > 32
                ? 2n ** BigInt(item.type.bits) - 1n
                : 2 ** item.type.bits - 1
              : 0,
          image,
        )
        expect(image.every((byte) => byte === (ones ? 0xff : 0))).toBe(true)
      }),
    )
  })

  it('holds reals, letters and octets', () => {
    const put = (item: Pick<Item, 'bitOffset' | 'type'>, value: Raw) => {
      const image = new Uint8Array(12)
      putItem(item, value, image)
      return itemReader(item, 12)(image)
    }
    expect(put({ bitOffset: 32, type: type('float', 32) }, -2.5)).toBe(-2.5)
    expect(put({ bitOffset: 3, type: type('float', 32) }, 0.75)).toBe(0.75)
    expect(put({ bitOffset: 16, type: type('text', 64) }, 'Kai 2')).toBe('Kai 2')
    expect(put({ bitOffset: 0, type: type('octets', 32) }, '0a1b2c3d')).toBe('0a1b2c3d')
    expect(put({ bitOffset: 9, type: type('bool', 1) }, true)).toBe(true)
  })

  it('takes nothing that its type does not hold', () => {
    const image = new Uint8Array(2)
    expect(() => putItem({ bitOffset: 0, type: type('uint', 4) }, 16, image)).toThrow('0 to 15')
    expect(() => putItem({ bitOffset: 0, type: type('int', 4) }, -9, image)).toThrow('-8 to 7')
    expect(() => putItem({ bitOffset: 0, type: type('uint', 4) }, 1.5, image)).toThrow('whole number')
    expect(() => putItem({ bitOffset: 0, type: type('text', 8) }, 'two', image)).toThrow('1 bytes')
    expect(() => putItem({ bitOffset: 0, type: type('octets', 8) }, 'x', image)).toThrow('hex')
  })

  it('of an array has its first element highest', () => {
    const record: DataRecord = {
      ...{ name: 'a', bits: 32 },
      items: [0, 1].map((i) => ({
        ...{ name: `a ${i}`, about: '', subindex: i + 1, bitOffset: 16 * (1 - i), type: type('uint', 16) },
        scale: { gradient: 1, offset: 0, unit: '', digits: null },
      })),
    }
    const values: Raw[] = []
    imageReader(record)(Uint8Array.from([0, 1, 0, 2]), values)
    expect(values).toEqual([1, 2])
  })
})
