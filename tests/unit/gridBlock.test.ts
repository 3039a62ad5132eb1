import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { blockOf, blockText } from '../../app/composables/gridBlock'

describe('a block of cells on the clipboard', () => {
  it.each([
    [
      'a\tb\r\nc\td\r\n',
      [
        ['a', 'b'],
        ['c', 'd'],
      ],
    ],
    ['one', [['one']]],
    ['a\t\tc', [['a', '', 'c']]],
    ['"two\nlines"\tb\n', [['two\nlines', 'b']]],
    ['"a ""quoted"" word"', [['a "quoted" word']]],
    ['5" pipe\tb', [['5" pipe', 'b']]],
    ['', [['']]],
    ['a\n\nb', [['a'], [''], ['b']]],
    ['"open\tb', [['"open', 'b']]],
  ])('is read as spreadsheets write it: %j', (text, cells) => {
    expect(blockOf(text)).toEqual(cells)
  })

  it('comes back as it went, whatever stands in its cells', () => {
    const cell = fc.string({ unit: fc.constantFrom('a', '"', '\t', '\n', ' ', 'ß') })
    const block = fc
      .integer({ min: 1, max: 4 })
      .chain((wide) => fc.array(fc.array(cell, { minLength: wide, maxLength: wide }), { minLength: 1, maxLength: 4 }))
    fc.assert(
      fc.property(block, (lines) => {
        fc.pre(!(lines.length > 1 && lines.at(-1)!.every((text) => text === '')))
        expect(blockOf(blockText(lines))).toEqual(lines)
      }),
    )
  })
})
