import { parse } from 'csv-parse/sync'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { dialectOf, withoutHint } from '#core/formats/csv/dialect'
import { decoded, encoded, encodingOf } from '#core/formats/csv/encoding'
import { harmless, meant } from '#core/formats/csv/formulas'
import { noNumber, numberIn, numberText } from '#core/formats/csv/numbers'
import { recordsOf, UnreadableCsv, withPlainLines } from '#core/formats/csv/records'
import { tableText } from '#core/formats/csv/write'
import { spanCell } from '#core/formats/cells'

const read = (text: string, delimiter = ',', piece?: number) => [...recordsOf(withPlainLines(text), delimiter, piece)].flat()

/** Cells with everything that makes tables hard. */
const cell = fc.oneof(
  fc.string({ unit: 'binary', maxLength: 8 }),
  fc.string({ unit: fc.constantFrom('"', ',', ';', '\n', ' ', 'a', "'", '=', '-'), maxLength: 8 }),
)
const table = fc.array(fc.array(cell, { minLength: 2, maxLength: 4 }), { minLength: 1, maxLength: 30 })

describe('records', () => {
  it('are those that a reader of others finds, wherever the pieces are cut', () =>
    fc.assert(
      fc.property(table, fc.constantFrom(',', ';', '\t', '|'), fc.integer({ min: 1, max: 40 }), (records, delimiter, piece) => {
        const text = withPlainLines(tableText(records, { delimiter: delimiter as ',', decimal: '.' }))
        const theirs = parse(text, { delimiter, relax_column_count: true, skip_empty_lines: true, record_delimiter: '\n' }) as string[][]
        expect(read(text, delimiter, piece).map(({ cells }) => cells)).toEqual(theirs)
      }),
      { numRuns: 500 },
    ))

  it('come back as they were written', () =>
    fc.assert(
      fc.property(table, (records) => {
        const plain = records.map((cells) => cells.map(withPlainLines))
        expect(read(tableText(records)).map(({ cells }) => cells.map(meant))).toEqual(plain)
      }),
    ))

  it('know on which line they start, whatever ends the lines and however long cells are', () => {
    const text = 'a,b\r\n\r\n1,"two\r\nlines"\r3,4\n5,"x ""y"""\n'
    for (const piece of [1, 5, 1000])
      expect(read(text, ',', piece)).toEqual([
        { line: 1, cells: ['a', 'b'] },
        { line: 3, cells: ['1', 'two\nlines'] },
        { line: 5, cells: ['3', '4'] },
        { line: 6, cells: ['5', 'x "y"'] },
      ])
  })

  it.each([
    ['a,b\n1,2\n3,"open\n4,5\n6,7', 3, 2, 'closed nowhere'],
    ['a,b\n1,"2"x,3\n4,5', 2, 2, 'doubled'],
  ])('say where %j is no table', (text, line, column, problem) => {
    for (const piece of [4, 1000]) {
      const failing = () => read(text, ',', piece)
      expect(failing).toThrow(UnreadableCsv)
      expect(failing).toThrow(expect.objectContaining({ line, column, problem: expect.stringContaining(problem) }))
    }
  })

  it('end although a quote is open at the start of a long text', () => {
    expect(() => read(`a,"b\n${'1,2\n'.repeat(200_000)}`)).toThrow(expect.objectContaining({ line: 1, column: 2 }))
  })
})

describe('the way a table is written', () => {
  const isName = (text: string) => ['path', 'gain', 'description'].includes(text.trim())

  it.each([
    ['path,gain\na,0.5\n', { delimiter: ',', decimal: '.' }],
    ['path;gain;description\na;0,5;x, y, z\nb;1,25;q\n', { delimiter: ';', decimal: ',' }],
    ['path\tgain\na\t0.5\n', { delimiter: '\t', decimal: '.' }],
    ['a|1,5|x\nb|2,5|y\n', { delimiter: '|', decimal: ',' }],
    ['a;b;0,5\nc;d;1,5\n', { delimiter: ';', decimal: ',' }],
    ['', { delimiter: ',', decimal: '.' }],
  ])('%j is found out', (text, found) => expect(dialectOf(text, isName)).toEqual(found))

  it('is said by some spreadsheets in a line of its own', () => {
    expect(withoutHint('sep=;\npath;gain\n')).toEqual({ text: 'path;gain\n', hint: ';', lines: 1 })
    expect(withoutHint('sep=x\na')).toEqual({ text: 'sep=x\na', hint: null, lines: 0 })
  })

  it('in bytes: UTF-8 by its mark or because it fits, else what spreadsheets write', () => {
    expect(encodingOf(encoded('Ä'))).toBe('utf-8')
    expect(decoded(encoded('Ä'), 'utf-8')).toBe('Ä')
    expect(encodingOf(new TextEncoder().encode('Wärme, 20 °C'))).toBe('utf-8')
    const western = Uint8Array.from([0x57, 0xe4, 0x72, 0x6d, 0x65, 0x20, 0x80])
    expect(encodingOf(western)).toBe('windows-1252')
    expect(decoded(western, 'windows-1252')).toBe('Wärme €')
    const wide = Uint8Array.from([0xff, 0xfe, 0xc4, 0x00])
    expect([encodingOf(wide), decoded(wide, encodingOf(wide))]).toEqual(['utf-16le', 'Ä'])
  })
})

describe('cells', () => {
  it.each(['=1+1', '@SUM(A1)', '+cmd|x', '-x', '\tx', '\rx', "'=x", "''+x"])(
    '%j runs in no spreadsheet, and is meant as it was',
    (text) => {
      expect(harmless(text)).toBe(`'${text}`)
      expect(meant(harmless(text))).toBe(text)
    },
  )
  it.each(['-5', '+1,5', '-1.5e-3', 'x=1', "'tis", ''])('%j stays as it is', (text) => {
    expect(harmless(text)).toBe(text)
    expect(meant(text)).toBe(text)
  })

  it('hold numbers by one decimal sign, and never guess at the other', () => {
    expect(numberIn('1,5', ',')).toBe(1.5)
    expect(numberIn('1.5', ',')).toBeNull()
    expect(numberIn('1.234', '.')).toBe(1.234)
    for (const text of ['1.234,5', '1 000', '0x10', '1e999', '', '-', '.', 'NaN', '1_0']) {
      expect(numberIn(text, '.'), text).toBeNull()
      expect(numberIn(text, ','), text).toBeNull()
    }
    expect(noNumber('1.5', ',')).toBe('“1.5” is no number where the decimal sign is “,”.')
  })

  it('give every number back', () =>
    fc.assert(
      fc.property(fc.double({ noNaN: true, noDefaultInfinity: true }), fc.constantFrom('.' as const, ',' as const), (value, decimal) => {
        expect(numberIn(numberText(value, decimal), decimal)).toBe(value === 0 ? numberIn(numberText(value, decimal), decimal) : value)
      }),
    ))

  it.each([
    ['500', 500],
    ['1.5 s', 1500],
    ['2min', 120_000],
    ['1 h', 3_600_000],
  ])('%s is %i ms', (text, value) => expect(spanCell(text, { decimal: '.' })).toEqual({ ok: true, value }))
  it.each(['1 d', 's', '1 s 2', '1,5 s'])('“%s” is no time', (text) => expect(spanCell(text, { decimal: '.' }).ok).toBe(false))
})
