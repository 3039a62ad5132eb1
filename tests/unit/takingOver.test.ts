import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { isNothing, takingPlan, type FoundNode, type KnownTag } from '#core/opcua/takingOver'

/** What becomes of tags as what a link takes over comes to others. */

const node = (id: string, more: Partial<FoundNode> = {}): FoundNode => ({
  ...{ address: `nsu=urn:port:berth;s=${id}`, member: '', type: 'float64', access: 'read' },
  ...more,
})
let lastId = 0
const tag = (id: string, more: Partial<KnownTag> = {}): KnownTag => ({ ...node(id), id: ++lastId, isTakenOver: true, ...more })
const all = { namespaces: [], gone: 'remove' } as const

describe('taking over', () => {
  it('makes a tag for each node that has none, whoever made that', () => {
    const plan = takingPlan(all, [node('a'), node('b'), node('c')], [tag('a'), tag('b', { isTakenOver: false })], true)
    expect(plan).toEqual({ make: [node('c')], change: [], remove: [] })
  })

  it('follows the type and the access of what it made, and of nothing else', () => {
    const own = tag('a')
    const plan = takingPlan(
      all,
      [node('a', { type: 'int32' }), node('b', { access: 'readwrite' })],
      [own, tag('b', { isTakenOver: false })],
      true,
    )
    expect(plan).toEqual({ make: [], change: [{ id: own.id, type: 'int32', access: 'read' }], remove: [] })
  })

  it('removes what is gone only where that was chosen, where it made it, and where everything was looked at', () => {
    const [own, others] = [tag('gone'), tag('by hand', { isTakenOver: false })]
    expect(takingPlan(all, [], [own, others], true).remove).toEqual([own.id])
    expect(takingPlan(all, [], [own, others], false).remove).toEqual([])
    expect(takingPlan({ ...all, gone: 'keep' }, [], [own, others], true).remove).toEqual([])
  })

  it('takes nodes of the namespaces that were named, and no others', () => {
    const other = node('x', { address: 'nsu=urn:port:berth-2;s=x' })
    expect(takingPlan({ ...all, namespaces: ['urn:port:berth'] }, [node('a'), other], [], true).make).toEqual([node('a')])
  })

  it('comes to rest: what was done leaves nothing to be done', () => {
    const ids = fc.uniqueArray(fc.constantFrom('a', 'b', 'c', 'd', 'e', 'f'))
    const types = fc.constantFrom('float64', 'int32', 'bool') as fc.Arbitrary<FoundNode['type']>
    fc.assert(
      fc.property(ids, ids, types, fc.constantFrom('keep', 'remove'), fc.boolean(), (there, here, type, gone, isWhole) => {
        const takes = { namespaces: [], gone } as const
        const found = there.map((id) => node(id, { type }))
        const known = here.map((id) => tag(id))
        const plan = takingPlan(takes, found, known, isWhole)
        const after = [
          ...known.filter(({ id }) => !plan.remove.includes(id)).map((one) => ({ ...one, ...plan.change.find(({ id }) => id === one.id) })),
          ...plan.make.map((one) => ({ ...one, id: ++lastId, isTakenOver: true })),
        ]
        return (
          isNothing(takingPlan(takes, found, after, isWhole)) &&
          there.every((id) => after.some(({ address }) => address === node(id).address))
        )
      }),
    )
  })
})
