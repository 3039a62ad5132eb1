import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { DecayingRate } from '#core/messages/decayingRate'
import { formOf, previewOf } from '#core/messages/form'

const bytes = (text: string) => new TextEncoder().encode(text)

describe('the form of a payload', () => {
  it.each([
    ['', 'empty'],
    ['21.5', 'number'],
    [' -3e-2\n', 'number'],
    ['007', 'text'],
    ['NaN', 'text'],
    ['True', 'true or false'],
    ['{"a":1}', 'JSON object'],
    ['[1, 2]', 'JSON list'],
    ['{"a":', 'text'],
    ['berth 1 is open', 'text'],
    ['two\nlines', 'text'],
    ['a\u0000b', 'binary'],
  ])('%j is %s', (text, form) => expect(formOf(bytes(text))).toBe(form))

  it('is told from the start where the payload is long, also where the cut goes through a character', () => {
    const long = `{"list":"${'é'.repeat(100_000)}"}`
    expect(formOf(bytes(long))).toBe('JSON object')
    expect(formOf(new Uint8Array(100_000).fill(0xff))).toBe('binary')
    expect(previewOf(bytes(`x${'é'.repeat(2000)}`))).toMatch(/^xé{199}…$/)
  })

  it('of any number and any JSON is found again', () => {
    fc.assert(
      fc.property(fc.double({ noNaN: true, noDefaultInfinity: true }), (value) => formOf(bytes(JSON.stringify(value))) === 'number'),
    )
    fc.assert(fc.property(fc.dictionary(fc.string(), fc.jsonValue()), (value) => formOf(bytes(JSON.stringify(value))) === 'JSON object'))
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 3000 }), (payload) => previewOf(payload).length <= 201 && formOf(payload) !== undefined),
    )
  })

  it('shows bytes as hexadecimal, text in one line, and nothing that would not show', () => {
    expect(previewOf(Uint8Array.of(0, 255, 16))).toBe('00 FF 10')
    expect(previewOf(new Uint8Array(40))).toMatch(/ …$/)
    expect(previewOf(bytes('two\n  lines'))).toBe('two lines')
    expect(previewOf(bytes('a\u202eb'))).toBe('a⟨U+202E⟩b')
  })
})

describe('a rate', () => {
  const after = (seconds: number, perSecond: number, start = 5000) => {
    const rate = new DecayingRate()
    for (let i = 0; i < seconds * perSecond; i++) rate.count(start + (i * 1000) / perSecond)
    return rate
  }
  it.each([1, 5, 50])('of steady %i per second is that, after two seconds as after a hundred', (perSecond) => {
    for (const seconds of [2, 20, 100]) expect(after(seconds, perSecond).perSecond(5000 + seconds * 1000) / perSecond).toBeCloseTo(1, 0)
  })

  it('of a single one is at most one per second, and goes down while nothing comes', () => {
    const rate = new DecayingRate()
    rate.count(1000)
    expect(rate.perSecond(1000)).toBeLessThanOrEqual(1.1)
    expect(rate.perSecond(31_000)).toBeLessThan(0.01)
  })
})
