import { describe, expect, it } from 'vitest'
import { cataloguedFrom } from '#core/iolink/description/catalogued'
import { readDescription } from '#core/iolink/description/read'
import { ioLinkLoad } from '#core/iolink/load'
import { offeredAt } from '#core/iolink/offered'
import { ioLinkSettings } from '#core/iolink/settings'
import { itemText } from '#core/iolink/shown'
import { mayHaveDevice, stateWords } from '#core/iolink/states'
import { partWord, protocolOf } from '#core/links/registry'
import type { PointDefinition } from '#core/links/protocol'
import { lamp, surface } from '../../standins/iolink/descriptions/devices'
import { tension } from '../../standins/iolink/descriptions/tension'

/** Values behind ports: what people type, what is proposed, what is refused. */

const protocol = protocolOf('iolink')
const settings = ioLinkSettings.parse({ base: 'http://master/iolink/v1', interval: 500, parameters: 10_000 })
const point = (address: string, type: PointDefinition['type'] = 'int16', more: Partial<PointDefinition> = {}): PointDefinition => ({
  ...{ address, type, options: {}, access: 'read' },
  ...more,
})
const read = (document: string) => {
  const found = readDescription(document)
  if (!found.ok) throw new Error(found.problem)
  return found.description
}

describe('an address behind a port', () => {
  it.each([
    ['1:in/16+16', 'int16', 'process data in, bits 16 to 31', false],
    ['2 : OUT/0+1', 'bool', 'process data out, bit 0', true],
    ['3:parameter/80', 'string', 'parameter 80', true],
    ['3:parameter/80.2/4+3', 'int8', 'parameter 80, part 2, bits 4 to 6', true],
    ['4:state', 'string', 'how the port is', false],
    ['4:events', 'string', 'what its device reports', false],
  ])('%s is described', (text, defaultType, holds, writable) => {
    const facts = protocol.describe(text, settings)
    expect(facts).toMatchObject({ ok: true, defaultType, writable, unit: text[0] })
    expect(facts.ok && facts.notations.at(-1)).toEqual({ label: 'holds', text: holds })
  })

  it('that no type holds, or that is none, says so', () => {
    expect(protocol.describe('1:in/0+71', settings)).toMatchObject({ ok: false, problem: expect.stringContaining('No type') as string })
    expect(protocol.describe('1:motor', settings)).toMatchObject({ ok: false })
  })

  it('goes on by its own width, by part, by index or by port', () => {
    const next = (address: string, by?: number) => protocol.next(point(address), by)
    expect([next('1:in/0+16'), next('1:in/0+1', 4), next('1:parameter/80'), next('1:parameter/80.1'), next('1:state')]).toEqual([
      ...['1:in/16+16', '1:in/4+1', '1:parameter/81', '1:parameter/80.2', '2:state'],
    ])
    expect([protocol.onUnit('1:in/0+1', '4'), protocol.onUnit('1:in/0+1', '900'), protocol.onUnit('none', '2')]).toEqual([
      '4:in/0+1',
      null,
      null,
    ])
    expect(partWord('iolink')).toBe('port')
  })

  it('lies where others lie that share its bits, and nowhere near those of another port', () => {
    const [a, b, c] = ['1:in/0+16', '1:in/8+16', '2:in/8+16'].map((address) => protocol.spot(point(address), settings)!)
    expect([a!.place === b!.place, a!.to > b!.from, a!.place === c!.place]).toEqual([true, true, false])
    expect(protocol.spot(point('none'), settings)).toBeNull()
  })
})

describe('a point behind a port', () => {
  it.each([
    ['a type of another width', point('1:in/0+24', 'int16'), 'type', /it has 24 bits/],
    ['a bit as a number of bits', point('1:in/0+2', 'bool'), 'type', /it is one bit/],
    ['a float of too few bits', point('1:in/0+16', 'float32'), 'type', /it has 32 bits/],
    ['letters that end within one', point('1:in/0+12', 'string'), 'type', /eight bits each/],
    ['a type that devices do not have', point('1:in/0+16', 'datetime'), 'type', /no such type/],
    ['a state as a number', point('1:state'), 'type', /it is text/],
    ['writing what is only read', point('1:in/0+16', 'int16', { access: 'readwrite' }), 'access', /Only process data out and parameters/],
    ['a form for a number', point('1:in/0+16', 'int16', { options: { form: 'hex' } }), 'options.form', /for letters/],
    ['an address that is none', point('1:in'), 'address', /port:in/],
  ])('with %s is refused at its field', (_, wrong, field, message) => {
    const [problem] = protocol.problems(wrong, settings)
    expect(problem).toMatchObject({ field })
    expect(problem!.message).toMatch(message)
  })

  it('with nothing against it has no problem; text is the usual form', () => {
    expect(protocol.problems(point('1:parameter/18', 'string', { options: { form: 'hex' } }), settings)).toEqual([])
    expect(protocol.leanOptions({ form: 'text' }, settings)).toEqual({})
    expect(protocol.leanOptions({ form: 'hex' }, settings)).toEqual({ form: 'hex' })
    expect(protocol.optionsFor('int16', { form: 'hex' })).toEqual({})
  })
})

describe('what reading asks of a port', () => {
  const load = (addresses: string[], answerMs: number | null) =>
    ioLinkLoad(
      addresses.map((address, i) => ({ ...point(address, 'bool'), id: i, path: address, interval: i === 0 ? 100 : null })),
      settings,
      () => ({ answerMs, fences: {} }),
    )

  it('is one question for all process data, as often as the quickest wants it, and one for each parameter', () => {
    const { parts, busy } = load(['1:in/0+1', '1:in/1+1', '1:out/0+1', '1:parameter/80', '1:parameter/81', '1:state', '2:in/0+1'], 20)
    expect(parts.map(({ unit, rounds }) => [unit, rounds.map(({ interval, requests, tags }) => [interval, requests, tags])])).toEqual([
      ['1', [[100, 1, 3], [10_000, 2, 2]]], // prettier-ignore
      ['2', [[500, 1, 1]]],
    ])
    // 20 ms of each 100, and of each 500, four at once
    expect(busy).toBeCloseTo((0.2 + 2 * 0.002 + 0.04) / 4)
  })

  it('is not guessed before anything was measured, and nothing where there is nothing', () => {
    expect(load(['1:in/0+1'], null)).toMatchObject({ busy: null, costly: [] })
    expect(load([], 20)).toEqual({ parts: [], busy: null, costly: [] })
  })
})

describe('what a description offers', () => {
  it('has unit, scale, range and the names of values, and what can only be written is left out', () => {
    const offered = offeredAt(3, read(tension), null)
    expect(offered.map(({ name }) => name)).not.toContain('System command')
    expect(offered.find(({ name }) => name === 'Tension')).toEqual({
      ...{
        room: 'in',
        name: 'Tension',
        about: 'Pull on the shore cable',
        address: '3:in/16+16',
        type: 'int16',
        options: {},
        access: 'read',
      },
      ...{ unit: 'kN', scaling: { gain: 0.01, offset: 0 }, range: { low: -20, high: 200 }, names: [] },
    })
    expect(offered.find(({ name }) => name === 'State')!.names).toEqual(
      ['measures', 'warms up', 'fails'].map((name, value) => ({ value, name })),
    )
    expect(offered.find(({ name }) => name === 'Slack limit')).toMatchObject({
      address: '3:parameter/80',
      access: 'readwrite',
      range: { high: 50 },
    })
    expect(offeredAt(1, read(lamp), null).find(({ name }) => name === 'Horn')).toMatchObject({ address: '1:out/7+1', access: 'readwrite' })
    expect(offeredAt(2, null, null).map(({ address }) => address)).toEqual(['2:state', '2:events'])
  })

  it('reaches parts of a parameter by their subindex, or, where the device has none, by their bits', () => {
    const addresses = (document: string) =>
      offeredAt(1, read(document), null).flatMap(({ name, address }) => (name.startsWith('Limits') ? [address] : []))
    expect(addresses(surface)).toEqual(['1:parameter/100.1', '1:parameter/100.2'])
    const whole = surface.replace('<Datatype xsi:type="RecordT" bitLength="32"><RecordItem subindex="1" bitOffset="16"><SimpleDatatype xsi:type="IntegerT" bitLength="16"></SimpleDatatype>', '<Datatype xsi:type="RecordT" bitLength="32" subindexAccessSupported="false"><RecordItem subindex="1" bitOffset="16"><SimpleDatatype xsi:type="IntegerT" bitLength="16"></SimpleDatatype>') // prettier-ignore
    expect(addresses(whole)).toEqual(['1:parameter/100/16+16', '1:parameter/100/0+16'])
  })

  it('shows values as they are meant: by name, scaled, with so many digits', () => {
    const items = read(surface).processData[0]!.in!.items
    const shown = (name: string, raw: number | boolean) =>
      itemText(
        items.find((item) => item.name === name)!,
        raw,
      )
    expect([
      shown('Temperature', 425),
      shown('Temperature', -5),
      shown('State', 1),
      shown('Own temperature', 14),
      shown('Hot', true),
    ]).toEqual([...['42.5', '−0.5', 'warms up', '14', 'true']])
  })

  it('goes into the catalogue under a name that shows, with what tells it apart', () => {
    const catalogued = cataloguedFrom({ ...read(tension), named: `Cable\u0000\u200b ${'x'.repeat(90)}` }, tension)
    expect(catalogued.name.length).toBeLessThanOrEqual(80)
    expect(catalogued.name).toMatch(/^Cable {1,3}x+ 2641\/1051$/)
    expect(cataloguedFrom(read(tension), tension)).toMatchObject({
      name: 'Cable tension sensor 2641/1051',
      version: 'V1.2',
      languages: ['en', 'de'],
    })
  })
})

describe('the state of a port', () => {
  it('is told in words; one that nobody knows here may have a device', () => {
    expect([stateWords('COMMUNICATION_LOST'), stateWords('SOME_OTHER_STATE')]).toEqual([
      ...['nothing is plugged in, or its line is broken', 'some other state'],
    ])
    expect([mayHaveDevice('DEACTIVATED'), mayHaveDevice('DEVICE_ONLINE'), mayHaveDevice('SOME_OTHER_STATE')]).toEqual([false, true, true])
  })
})
