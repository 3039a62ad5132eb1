import { describe, expect, it } from 'vitest'
import { mapEntry } from '#core/modbus/map/entry'
import { useMapRows } from '~/composables/useMapRows'

/** Lines of a register map as they are changed on screen. */

const entries = [
  mapEntry.parse({ path: 'berth/1/power', at: 'holding/0', type: 'float32' }),
  mapEntry.parse({ path: 'berth/1/breaker', at: 'coil/0', type: 'bool' }),
]
const loaded = () => {
  const map = useMapRows(() => 1)
  map.load(entries)
  const row = (at: number) => map.rows.value[at]!
  const write = (at: number, column: string, text: string) => map.cells.write([{ row: row(at), column, text }])
  return { ...map, row, write }
}

describe('the lines of a map', () => {
  it('are as saved until a cell says something else, and again once it says that', () => {
    const { isDirty, write, cells, row } = loaded()
    expect(isDirty.value).toBe(false)
    write(0, 'address', '40011')
    expect(isDirty.value).toBe(true)
    expect(cells.isEdited(row(0), 'address')).toBe(true)
    expect(cells.cellOf(row(0), 'reference')).toBe('40011')
    write(0, 'address', 'holding/0')
    expect(isDirty.value).toBe(false)
    expect(cells.isEdited(row(0), 'address')).toBe(false)
  })

  it('are undone and done again, step by step, and a cell that says the same is no step', () => {
    const { write, undo, redo, row, done, undone } = loaded()
    write(0, 'address', 'holding/0')
    expect(done.value).toHaveLength(0)
    write(0, 'type', 'int16')
    write(0, 'gain', '0.1')
    undo()
    undo()
    expect(row(0).cells).toMatchObject({ type: 'float32', gain: '1' })
    redo()
    expect(row(0).cells).toMatchObject({ type: 'int16', gain: '1' })
    write(0, 'gain', '10')
    expect(undone.value).toHaveLength(0)
  })

  it('tell at the cell what is wrong, and where two lie on one register', () => {
    const { write, problems, cells, row, add, addBlank, drop } = loaded()
    write(0, 'address', 'holding/x')
    expect(cells.problemOf(row(0), 'address')).toMatch(/neither|table|offset/)
    expect(cells.problemOf(row(0), 'type')).toBeUndefined()
    write(0, 'address', 'holding/0')
    add([mapEntry.parse({ path: 'berth/1/limit', at: 'holding/1', type: 'uint16' })])
    expect(cells.problemOf(row(2), 'address')).toBe('It lies on line 1, power at holding/0.')
    drop(new Set([row(2).id]))
    expect(problems.value.size).toBe(0)
    addBlank({ address: 'holding/5' })
    expect(cells.problemOf(row(2), 'path')).toMatch(/needs a path/)
  })

  it('taken from a file are those of before where the tag is the same', () => {
    const { replace, row, rows, isDirty, cells } = loaded()
    replace([mapEntry.parse({ path: 'berth/1/power', at: 'holding/8', type: 'float32' })])
    expect(rows.value).toHaveLength(1)
    expect(cells.isEdited(row(0), 'address')).toBe(true)
    expect(cells.isEdited(row(0), 'type')).toBe(false)
    expect(isDirty.value).toBe(true)
  })
})
