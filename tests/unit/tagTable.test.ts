import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { quality } from '#core/tags/quality'
import { TagTable } from '#engine/table/tagTable'

const listening = () => {
  const table = new TagTable()
  const batches: number[][] = []
  table.listen((handles) => batches.push([...handles]))
  return { table, batches }
}

describe('the tag table', () => {
  it('starts every tag without a value, and says so', () => {
    const table = new TagTable()
    const handle = table.allocate()
    expect(table.values[handle]).toBeUndefined()
    expect(table.quality[handle]).toBe(quality.BadWaitingForInitialData)
    expect(table.goodCount).toBe(0)
  })

  it('tells a change once, however often it was written before the flush', () => {
    const { table, batches } = listening()
    const [a, b] = [table.allocate(), table.allocate()]
    table.set(a, 1, quality.Good, 100)
    table.set(a, 2, quality.Good, 101)
    table.set(b, 3, quality.Good, 102)
    table.flush()
    table.flush()
    expect(batches).toEqual([[a, b]])
    expect(table.values[a]).toBe(2)
  })

  it('keeps the source time of a value that is only confirmed', () => {
    const { table, batches } = listening()
    const handle = table.allocate()
    table.set(handle, 5, quality.Good, 100)
    table.flush()
    table.set(handle, 5, quality.Good, 200)
    table.confirm(handle, 300)
    table.flush()
    expect(table.sourceTime[handle]).toBe(100)
    expect(table.seenAt[handle]).toBe(300)
    expect(batches).toHaveLength(1)
  })

  it('keeps the last value when it goes bad, and the time since when', () => {
    const { table, batches } = listening()
    const handle = table.allocate()
    table.set(handle, 5, quality.Good, 100)
    table.flush()
    table.degrade(handle, quality.BadNoCommunication, 150)
    table.degrade(handle, quality.BadNoCommunication, 160)
    table.flush()
    expect(table.values[handle]).toBe(5)
    expect(table.sourceTime[handle]).toBe(150)
    expect(table.seenAt[handle]).toBe(100)
    expect(batches).toHaveLength(2)
  })

  it('takes NaN and negative zero for what they are: NaN is no change of NaN, -0 is one of 0', () => {
    const { table, batches } = listening()
    const handle = table.allocate()
    for (const value of [NaN, NaN, 0, -0]) {
      table.set(handle, value, quality.Good, 1)
      table.flush()
    }
    expect(batches).toHaveLength(3)
  })

  it('stops telling whoever no longer listens', () => {
    const table = new TagTable()
    let told = 0
    const stop = table.listen(() => told++)
    const handle = table.allocate()
    table.set(handle, 1, quality.Good, 1)
    table.flush()
    stop()
    table.set(handle, 2, quality.Good, 2)
    table.flush()
    expect(told).toBe(1)
  })

  it('grows past its first size without losing anything', () => {
    const table = new TagTable()
    const handles = Array.from({ length: 1000 }, (_, i) => {
      const handle = table.allocate()
      table.set(handle, i, quality.Good, i)
      return handle
    })
    expect(handles.every((handle, i) => table.values[handle] === i && table.sourceTime[handle] === i)).toBe(true)
    expect(table.goodCount).toBe(1000)
  })

  it('counts its good tags right through any history', () => {
    const step = fc.oneof(fc.constant('allocate' as const), fc.record({ kind: fc.constantFrom('good', 'bad', 'release'), pick: fc.nat() }))
    fc.assert(
      fc.property(fc.array(step, { maxLength: 80 }), (steps) => {
        const table = new TagTable()
        const live: number[] = []
        for (const action of steps) {
          if (action === 'allocate') live.push(table.allocate())
          else if (live.length > 0) {
            const index = action.pick % live.length
            const handle = live[index]!
            if (action.kind === 'good') table.set(handle, action.pick, quality.Good, 1)
            else if (action.kind === 'bad') table.degrade(handle, quality.BadTimeout, 1)
            else {
              table.release(handle)
              live.splice(index, 1)
            }
          }
        }
        expect(table.size).toBe(live.length)
        expect(new Set(live).size).toBe(live.length)
        expect(table.goodCount).toBe(live.filter((handle) => table.quality[handle] === quality.Good).length)
      }),
    )
  })
})

describe('every sample of a tag', () => {
  const follow = (most: number) => {
    const table = new TagTable()
    const [handle, other] = [table.allocate(), table.allocate()]
    table.set(handle, 0, quality.Good, 1, 1)
    return { table, handle, other, ...table.follow(handle, most) }
  }
  const valuesIn = (samples: { value: unknown }[]) => samples.map(({ value }) => value)

  it('is kept from what it has on, in order, also where listeners get the last only', () => {
    const { table, handle, other, ring } = follow(10)
    for (const value of [1, 2, 2, 3]) {
      table.set(handle, value, quality.Good, 10 + value)
      table.set(other, value, quality.Good, 10)
    }
    table.degrade(handle, quality.BadTimeout, 20)
    table.flush()
    expect(ring.drain()).toEqual([
      { value: 0, quality: quality.Good, sourceTime: 1, seenAt: 1 },
      { value: 1, quality: quality.Good, sourceTime: 11, seenAt: 11 },
      { value: 2, quality: quality.Good, sourceTime: 12, seenAt: 12 },
      { value: 3, quality: quality.Good, sourceTime: 13, seenAt: 13 },
      { value: 3, quality: quality.BadTimeout, sourceTime: 20, seenAt: 13 },
    ])
    expect(ring.drain()).toEqual([])
  })

  it('counts an equal value where the source says that it is a later one, and not when it only was read again', () => {
    const { table, handle, ring } = follow(10)
    table.set(handle, 0, quality.Good, 5)
    table.set(handle, 0, quality.Good, 6, 4)
    table.set(handle, 0, quality.Good, 7, 4)
    expect(ring.drain().map(({ sourceTime }) => sourceTime)).toEqual([1, 4])
  })

  it('makes room for what comes, and counts what it lost, whatever is taken out between', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 7 }), fc.array(fc.boolean(), { maxLength: 60 }), (most, steps) => {
        const { table, handle, ring } = follow(most)
        const taken: unknown[] = []
        steps.forEach((drains, i) => (drains ? taken.push(...valuesIn(ring.drain())) : table.set(handle, i + 1, quality.Good, i + 2)))
        taken.push(...valuesIn(ring.drain()))
        expect(taken.length + ring.lost).toBe(1 + steps.filter((drains) => !drains).length)
        expect(taken).toEqual([...(taken as number[])].sort((a, b) => a - b))
      }),
    )
  })

  it('ends with the tag: whoever gets its handle next is not heard', () => {
    const { table, handle, ring, end } = follow(10)
    ring.drain()
    table.release(handle)
    const next = table.allocate()
    expect(next).toBe(handle)
    table.set(next, 99, quality.Good, 30)
    expect(ring.size).toBe(0)
    const second = table.follow(next, 10)
    end()
    table.set(next, 100, quality.Good, 31)
    expect(valuesIn(second.ring.drain())).toEqual([99, 100])
    second.end()
    table.set(next, 101, quality.Good, 32)
    expect(second.ring.size).toBe(0)
  })
})
