import { afterEach, beforeEach, describe, expect, it } from 'vitest'
import type { BrowsedNode, Children, Place } from '#shared/browse'
import { Refused } from '~/composables/useApi'
import { usePlaceColumns } from '~/composables/usePlaceColumns'
import { fault } from '#core/faults/catalogue'
import { leave, startAnew, within } from './support'

beforeEach(startAnew)
afterEach(leave)

const node = (address: string, opens = true): BrowsedNode => ({
  ...{ address, member: '', name: address, kind: opens ? 'object' : 'variable', opens },
})
const shown = (nodes: BrowsedNode[]): Children => ({ nodes, more: false })
const root: Place = { address: '', member: '' }

describe('places side by side', () => {
  const plant: Record<string, BrowsedNode[]> = {
    '': [node('berth'), node('quay')],
    berth: [node('arm')],
    arm: [node('angle', false)],
    quay: [],
  }
  const opened = (listens = false, children = (place: Place) => Promise.resolve(shown(plant[place.address]!))) =>
    within(() => usePlaceColumns({ children, listens: () => listens }))

  it('open to the right of what they are in, and what was open beside them goes', async () => {
    const { begin, open, columns, last } = opened()
    await begin(root, 'Plant')
    await open(0, plant['']![0]!)
    await open(1, plant.berth![0]!)
    expect(columns.value.map(({ title }) => title)).toEqual(['Plant', 'berth', 'arm'])
    expect(last.value?.names).toEqual(['berth', 'arm'])
    await open(0, plant['']![1]!)
    expect(columns.value.map(({ title }) => title)).toEqual(['Plant', 'quay'])
  })

  it('open by themselves as long as there is only one way', async () => {
    const { begin, openOnly, columns } = opened(false, (place) => Promise.resolve(shown(plant[place.address || 'berth']!)))
    await begin(root, 'Plant')
    await openOnly()
    expect(columns.value.map(({ title }) => title)).toEqual(['Plant', 'arm'])
  })

  it('stay where they are while more is heard', async () => {
    const heard = [node('b')]
    const { begin, again, columns } = opened(true, () => Promise.resolve(shown([...heard])))
    await begin(root, 'heard')
    heard.unshift(node('a'))
    await again()
    expect(columns.value[0]!.children!.nodes.map(({ name }) => name)).toEqual(['b', 'a'])
    heard.pop()
    await again()
    expect(columns.value[0]!.children!.nodes.map(({ name }) => name)).toEqual(['a'])
  })

  it('say what the far side said, and take an answer that came too late for nothing', async () => {
    const why = new Refused(fault('entry.gone', { thing: 'link', id: 7 }), [], {})
    let isGone = true
    const late: (() => void)[] = []
    const { begin, load, problem, columns } = opened(false, (place) => {
      if (place.address === 'slow') return new Promise((resolve) => late.push(() => resolve(shown([node('stale')]))))
      return isGone ? Promise.reject(why) : Promise.resolve(shown(plant['']!))
    })
    await begin(root, 'Plant')
    expect(problem.value?.why.code).toBe('entry.gone')
    isGone = false
    await load(0)
    expect(problem.value).toBe(null)
    const slow = begin({ address: 'slow', member: '' }, 'Slow')
    await begin(root, 'Plant')
    late[0]!()
    await slow
    expect(columns.value[0]!.children!.nodes.map(({ name }) => name)).toEqual(['berth', 'quay'])
  })
})
