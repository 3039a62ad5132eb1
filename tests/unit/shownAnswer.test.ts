import { describe, expect, it } from 'vitest'
import { mostShownChars, shownAnswer } from '#core/messages/shown'

const bytes = (text: string) => new TextEncoder().encode(text)

describe('an answer that is shown', () => {
  it('is itself where it is short, whatever it is', () => {
    expect(shownAnswer(bytes('{ "price" : 7 }'))).toEqual({ body: '{ "price" : 7 }', shortened: 'no' })
    expect(shownAnswer(bytes('<p>soon</p>')).body).toBe('<p>soon</p>')
  })
  it('keeps its form and every digit where it is long, and only the first elements of its lists', () => {
    const rows = Array.from({ length: 20_000 }, (_, i) => `{"voyage":9007199254740993,"kw":[${i},${i + 1}],"note":"${'x'.repeat(20)}"}`)
    const { body, shortened } = shownAnswer(bytes(`{"at":"now","rows":[${rows.join(',')}]}`))
    expect(shortened).toBe('lists')
    expect(body.length).toBeLessThanOrEqual(mostShownChars)
    expect(body.startsWith('{"at":"now","rows":[{"voyage":9007199254740993,"kw":[0,1],')).toBe(true)
    expect((JSON.parse(body) as { rows: unknown[] }).rows).toHaveLength(200)
  })
  it('is cut off where it has no lists, or is no JSON', () => {
    for (const text of [`"${'x'.repeat(300_000)}"`, `[${'1,'.repeat(200_000)}`])
      expect(shownAnswer(bytes(text))).toEqual({ body: text.slice(0, mostShownChars), shortened: 'cut' })
  })
  it('of lists in lists is shortened further, until it is short enough', () => {
    const deep = JSON.stringify(Array.from({ length: 300 }, () => Array.from({ length: 300 }, () => Array.from({ length: 30 }, () => 1))))
    const { body, shortened } = shownAnswer(bytes(deep))
    expect(shortened).toBe('lists')
    expect((JSON.parse(body) as unknown[]).length).toBe(50)
  })
})
