import { describe, expect, it } from 'vitest'
import { ItemBook } from '#engine/links/opcua/items'
import { TagTable } from '#engine/table/tagTable'
import { pointsIn } from '../support/points'

const points = (...addresses: string[]) =>
  pointsIn(
    new TagTable(),
    addresses.map((address) => ({ address, type: 'float64' as const })),
  )

describe('items of an OPC UA link', () => {
  it('are shared by tags of one node, interval and deadband, until the last one leaves', () => {
    const book = new ItemBook()
    const [whole, member, other] = points('i=1', 'i=1', 'i=2')
    const item = book.place(whole!, 500)!
    expect(book.place({ ...member!, options: { member: 'Slew' } }, 500)).toBeNull()
    expect(book.place(other!, 500)).not.toBeNull()
    expect(book.all()).toHaveLength(2)
    expect(book.target(member!.handle)?.steps).toEqual(['Slew'])
    expect(book.remove(whole!.handle)).toBeNull()
    expect(book.remove(member!.handle)).toBe(item)
    expect(book.all()).toHaveLength(1)
  })

  it('are separate where interval or deadband differ', () => {
    const book = new ItemBook()
    const [a, b, c] = points('i=1', 'i=1', 'i=1')
    book.place(a!, 500)
    book.place({ ...b!, interval: 100 }, 500)
    book.place({ ...c!, options: { deadband: { kind: 'absolute', value: 1 } } }, 500)
    expect(book.all()).toHaveLength(3)
  })

  it('never take over the handle of one that is gone: its last notification would pass for theirs', () => {
    const book = new ItemBook()
    const [a, b] = points('i=1', 'i=2')
    const gone = book.place(a!, 500)!
    book.remove(a!.handle)
    const fresh = book.place(b!, 500)!
    expect(fresh.clientHandle).not.toBe(gone.clientHandle)
    expect(book.notified(gone.clientHandle)).toBeUndefined()
    expect(book.notified(fresh.clientHandle)).toBe(fresh)
  })

  it('are not made of what cannot be read', () => expect(new ItemBook().place(points('Plug')[0]!, 500)).toBeNull())
})
