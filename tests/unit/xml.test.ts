import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { childOf, childrenOf, isXml, readXml, wholeText, within, type Element } from '#core/formats/xml/elements'

/** Documents as elements, with names that may carry prefixes, and what is refused. */

const rootOf = (text: string): Element => {
  const read = readXml(text)
  if (!read.ok) throw new Error(read.problem)
  return read.root
}
const problemOf = (text: string) => {
  const read = readXml(text)
  return read.ok ? null : read
}

describe('a document', () => {
  it('is read with its namespaces, attributes, texts and lines', () => {
    const root = rootOf(
      '\ufeff<?xml version="1.0"?>\n<a xmlns="urn:a" xmlns:b="urn:b">\n  <b:c b:id="1" id="2">x <![CDATA[<y>]]></b:c>\n</a>',
    )
    expect([root.name, root.namespace]).toEqual(['a', 'urn:a'])
    const child = childOf(root, 'c')!
    expect(child).toMatchObject({ namespace: 'urn:b', attributes: { 'b:id': '1', id: '2' }, text: 'x <y>', line: 3 })
    expect(within(root, 'c', 'nothing')).toBe(null)
    expect(childrenOf(null, 'c')).toEqual([])
  })

  it('keeps every text and attribute that may stand in one', () => {
    const escaped = (text: string) => text.replace(/[&<>"'\t\n\r]/g, (sign) => `&#${sign.charCodeAt(0)};`)
    const texts = fc
      .string({ unit: 'grapheme', maxLength: 30 })
      .filter((text) => !/[\u0000-\u0008\u000b\u000c\u000e-\u001f\ufffe\uffff]/.test(text))
    fc.assert(
      fc.property(texts, texts, (text, value) => {
        const root = rootOf(`<a v="${escaped(value)}">${escaped(text)}</a>`)
        expect([root.text, root.attributes.v]).toEqual([text, value])
      }),
    )
  })

  it('gives all its text in one line', () => {
    expect(wholeText(rootOf('<p>Hz at <b>the\n   plug</b></p>'))).toBe('Hz at the plug')
    expect(wholeText(null)).toBe('')
  })

  it('is told from other texts by how it begins', () => {
    expect(['<?xml version="1.0"?><a/>', ' \n<project/>', '<!-- x --><a/>'].map(isXml)).toEqual([true, true, true])
    expect(['VAR a : INT; END_VAR', 'a < b', ''].map(isXml)).toEqual([false, false, false])
  })
})

describe('what is refused', () => {
  it('names the line: unclosed, cut off, two roots, nothing at all', () => {
    expect(problemOf('<a>\n<b></a>')).toMatchObject({ line: 2 })
    expect(problemOf('<a>\n<b>')).not.toBe(null)
    expect(problemOf('<a/><b/>')).not.toBe(null)
    expect(problemOf('')).not.toBe(null)
    expect(problemOf('<a>\u0000</a>')).not.toBe(null)
  })

  it('is whatever declares a type of its own, so that no entity stands for anything', () => {
    expect(problemOf('<!DOCTYPE a [<!ENTITY x SYSTEM "file:///etc/passwd">]><a>&x;</a>')!.problem).toMatch(/document type/)
    expect(problemOf('<a>&x;</a>')).not.toBe(null)
  })

  it('is what is larger or deeper than anybody needs', () => {
    expect(problemOf('<a>'.repeat(101) + '</a>'.repeat(101))!.problem).toMatch(/100 deep/)
    const read = readXml(`<a>${'<b/>'.repeat(20)}</a>`, { elements: 10, depth: 5 })
    expect(read).toMatchObject({ ok: false, problem: 'it has more than 10 elements' })
  })

  it('throws nothing, whatever it is given', () => {
    fc.assert(fc.property(fc.string({ maxLength: 200 }), (text) => void readXml(`<a>${text}`)))
  })
})
