import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { differencesBetween } from '#core/text/differences'

describe('differences', () => {
  it('are told by field, however deep, and only where there are any', () => {
    const before = { name: 'Arm', settings: { host: 'a', doors: [{ port: 1 }, { port: 2 }] }, unit: '', scaling: null }
    const after = { name: 'Arm', settings: { host: 'b', doors: [{ port: 1 }] }, unit: 'kW', scaling: { gain: 0.1, offset: 0 } }
    expect(differencesBetween(before, after)).toEqual([
      { field: 'settings.host', before: 'a', after: 'b' },
      { field: 'settings.doors.1.port', before: '2', after: null },
      { field: 'unit', before: null, after: 'kW' },
      { field: 'scaling.gain', before: null, after: '0.1' },
      { field: 'scaling.offset', before: null, after: '0' },
    ])
  })

  it('to nothing are all that is there', () => {
    expect(differencesBetween(null, { path: 'a', options: {} })).toEqual([{ field: 'path', before: null, after: 'a' }])
    expect(differencesBetween({ path: 'a' }, null)).toEqual([{ field: 'path', before: 'a', after: null }])
  })

  it('are none between equals, and turn round with their sides', () =>
    fc.assert(
      fc.property(fc.jsonValue(), fc.jsonValue(), (a, b) => {
        expect(differencesBetween(a, structuredClone(a))).toEqual([])
        const turned = differencesBetween(b, a).map(({ field, before, after }) => ({ field, before: after, after: before }))
        const byField = (x: object, y: object) => (JSON.stringify(x) < JSON.stringify(y) ? -1 : 1)
        expect(differencesBetween(a, b).sort(byField)).toEqual(turned.sort(byField))
      }),
    ))

  it('tells long texts by how they begin, and how long they are', () => {
    const [told] = differencesBetween({ document: 'a'.repeat(5000) }, { document: 'b' })
    expect(told).toEqual({ field: 'document', before: `${'a'.repeat(400)} … 5,000 characters`, after: 'b' })
  })
})
