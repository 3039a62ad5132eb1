import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { protocolOf } from '#core/links/registry'
import { NoteBook } from '#core/notes/book'
import { noteKinds } from '#core/notes/kinds'
import { linkContract, type Link } from '#shared/links/link'
import { pointOf } from '#shared/sources/point'
import { isFrom } from '#shared/sources/registry'
import { pointTag, tagDraft, type Tag, type TagDraft } from '#shared/tags'

const linkOf = (kind: 'modbus-tcp' | 'opcua'): Link => ({
  ...linkContract.parse({ name: kind, kind, settings: kind === 'opcua' ? { address: 'arm:4840' } : { host: 'meters', unit: 11 } }),
  id: kind === 'opcua' ? 2 : 1,
  revision: 1,
})
const links = new Map([linkOf('modbus-tcp'), linkOf('opcua')].map((link) => [link.id, link]))

const bookOf = (tags: readonly Tag[] = []) => {
  const book = new NoteBook<Tag>((tag) => {
    if (!isFrom('point', tag)) return null
    const link = links.get(tag.source.linkId)!
    const spot = protocolOf(link.kind).spot(pointOf(tag), link.settings)
    return spot && { ...spot, place: `${link.id} ${spot.place}` }
  })
  book.change(tags, [])
  return book
}

let lastId = 0
type Point = Parameters<typeof pointTag>[0]
const tag = (address: string, type: TagDraft['type'], more: Partial<Point> = {}): Tag => {
  const id = ++lastId
  return { ...pointTag({ path: `t/${id}`, linkId: 1, address, type, ...more }), id, revision: 1 }
}
/** What is said of each, in order. */
const said = (...tags: Tag[]) => {
  const book = bookOf(tags)
  return tags.map(({ id }) => book.notesOf(id).map(({ kind, text }) => `${kind}: ${text}`))
}

describe('points that meet', () => {
  it('overlap, are part of each other, or are the same', () => {
    const [a, b] = [tag('holding/60', 'uint32'), tag('holding/61', 'uint32')]
    expect(said(a, b)).toEqual([[`overlap: overlaps ${b.path} by 1 word`], [`overlap: overlaps ${a.path} by 1 word`]])
    const [wide, part] = [tag('holding/60', 'float64'), tag('holding/62', 'int16')]
    expect(said(wide, part)).toEqual([
      [`overlap: holds 1 word of which ${part.path} is made`],
      [`inside: is part of ${wide.path}, which is float64 ABCD`],
    ])
    const [float, whole] = [tag('holding/60', 'float32'), tag('11:holding/60', 'int32')]
    expect(said(float, whole)[0]).toEqual([`otherwise: reads as float32 ABCD what ${whole.path} reads as int32 ABCD`])
    const [one, other] = [tag('holding/60', 'int16'), tag('40061', 'int16')]
    expect(said(one, other)).toEqual([[`duplicate: reads the same as ${other.path}`], [`duplicate: reads the same as ${one.path}`]])
  })

  it('are left in peace beside each other, in other tables and units, and as bits of one word', () => {
    const quiet = said(
      ...[tag('holding/60', 'uint32'), tag('holding/62', 'uint32'), tag('input/60', 'uint32'), tag('12:holding/60', 'uint32')],
      ...[tag('holding/94.1', 'bool'), tag('holding/94.2', 'bool'), tag('holding/94', 'uint16'), tag('coil/60', 'bool')],
    )
    expect(quiet).toEqual(Array.from({ length: 8 }, () => []))
  })

  it('are the same node twice on a server, also by member', () => {
    const node = (member?: string) => tag('nsu=urn:arm;s=Plug', 'float64', { linkId: 2, options: member ? { member } : {} })
    const [a, b, c, d] = [node(), node(), node('X'), node('Y')]
    expect(said(a, b, c, d).map((notes) => notes.length)).toEqual([1, 1, 0, 0])
  })

  it('name one of many copies', () => {
    const copies = Array.from({ length: 3000 }, () => tag('holding/7', 'int16'))
    const book = bookOf(copies)
    expect(book.notesOf(copies[17]!.id)).toHaveLength(1)
  })
})

describe('one tag', () => {
  it.each<[TagDraft['type'], Partial<Point>, string | null]>([
    ['int16', { range: { low: 0, high: 40_000 } }, 'its range goes to 40000: 40000 on the wire, and int16 holds -32768 to 32767'],
    ['int16', { range: { low: 0, high: 3000 }, scaling: { gain: 0.1, offset: 0 } }, null],
    [
      'int16',
      { range: { low: 0, high: 4000 }, scaling: { gain: 0.1, offset: 0 } },
      'its range goes to 4000: 40000 on the wire, and int16 holds -32768 to 32767',
    ],
    ['uint16', { range: { low: -10, high: 10 } }, 'its range goes to -10: -10 on the wire, and uint16 holds 0 to 65535'],
    ['uint16', { range: { low: 0, high: 9999 }, options: { coding: 'bcd' } }, null],
    [
      'uint16',
      { range: { low: 0, high: 1000 }, scaling: { gain: 0.1, offset: 0 }, options: { coding: 'bcd' } },
      'its range goes to 1000: 10000 on the wire, and it holds 0 to 9999',
    ],
    [
      'uint16',
      { scaling: { kind: 'ranges', raw: { low: 0, high: 10_000 }, to: { low: 0, high: 100 } }, options: { coding: 'bcd' } },
      'its raw range goes to 10000, and it holds 0 to 9999',
    ],
    ['float32', { range: { low: -1e30, high: 1e30 } }, null],
    ['float32', { range: { low: 0, high: 1e39 } }, 'its range goes to 1e+39: 1e+39 on the wire, and float32 holds ±3.4e38'],
    [
      'int16',
      { scaling: { kind: 'ranges', raw: { low: 0, high: 65_535 }, to: { low: 0, high: 100 } } },
      'its raw range goes to 65535, and int16 holds -32768 to 32767',
    ],
  ])('of %s with %j', (type, more, text) => {
    expect(said(tag('holding/60', type, more))[0]).toEqual(text === null ? [] : [`range: ${text}`])
  })

  it('is told of another that differs in capitals only, and of a folder that most write otherwise', () => {
    const at = (path: string) => ({ ...tag(`holding/${lastId * 4}`, 'int16'), path })
    expect(said(at('berth/1/Power'), at('berth/1/power'), at('berth/1/current'))).toEqual([
      ['case: is written berth/1/power elsewhere'],
      ['case: is written berth/1/Power elsewhere'],
      [],
    ])
    expect(said(at('berth/1/a'), at('berth/2/b'), at('Berth/1/c'))[2]).toEqual(['case: lies in Berth, which 2 others write berth'])
  })

  it('says the same before it is saved, in the place of itself', () => {
    const [a, b] = [tag('holding/60', 'uint32'), tag('holding/64', 'uint32')]
    const book = bookOf([a, b])
    const moved = { ...b, source: { ...b.source, address: 'holding/61' } } as Tag
    expect(book.preview(moved, b.id).map(({ kind }) => kind)).toEqual(['overlap'])
    expect(book.preview(b, b.id)).toEqual([])
    expect(book.preview(a, null).map(({ kind }) => kind)).toEqual(['duplicate'])
    expect(book.notesOf(b.id)).toEqual([])
  })
})

describe('the notes of a site', () => {
  it('are known again whatever tags are called, and come back where they say something else', () => {
    const [a, b] = [tag('holding/60', 'uint32'), tag('holding/61', 'uint32')]
    const key = (other: Tag) => bookOf([a, other]).notesOf(a.id)[0]!.key
    expect(key({ ...b, path: 'called/otherwise' })).toBe(key(b))
    expect(key({ ...b, type: 'float32' })).not.toBe(key(b))
  })

  it('have something to do for each kind', () => {
    for (const { title, todo } of Object.values(noteKinds)) expect([title.length > 3, todo.endsWith('.')]).toEqual([true, true])
  })

  it('are the same however the site came to be', () => {
    const address = fc.integer({ min: 0, max: 40 }).map((offset) => `holding/${offset}`)
    const type = fc.constantFrom('int16' as const, 'uint32' as const, 'float64' as const)
    const path = fc.constantFrom('a/x', 'a/X', 'A/x', 'b/y', 'b/z', 'B/y')
    const change = fc.record({ id: fc.integer({ min: 1, max: 12 }), address, type, path, gone: fc.boolean() })
    fc.assert(
      fc.property(fc.array(change, { maxLength: 40 }), (changes) => {
        const grown = bookOf()
        const now = new Map<number, Tag>()
        for (const { id, gone, ...rest } of changes) {
          if (gone) now.delete(id)
          else now.set(id, { ...tag('holding/0', 'int16'), ...tagDraft.parse(pointTag({ linkId: 1, ...rest })), id })
          grown.change(gone ? [] : [now.get(id)!], gone ? [id] : [])
          if (id % 3 === 0) grown.refresh()
        }
        const fresh = bookOf([...now.values()])
        const kinds = (book: NoteBook<Tag>, id: number) =>
          book
            .notesOf(id)
            .map(({ kind }) => kind)
            .sort()
        // which three of many are named depends on the order in which they came; that there is something does not
        for (const id of now.keys()) expect(kinds(grown, id).length > 0).toBe(kinds(fresh, id).length > 0)
        expect(new Set([...grown.noted()].map(([{ id }]) => id))).toEqual(new Set([...fresh.noted()].map(([{ id }]) => id)))
      }),
      { numRuns: 300 },
    )
  })
})
