import { afterEach, beforeEach, describe, expect, it } from 'vitest'
import { linkContract, type Link } from '#shared/links/link'
import type { LinkNames } from '#shared/sources/columns'
import { pointTag, type Tag } from '#shared/tags'
import { useGridCursor } from '~/composables/useGridCursor'
import { useGridEdits } from '~/composables/useGridEdits'
import { answerWith, leave, refusal, startAnew, within } from './support'

beforeEach(() => startAnew())
afterEach(() => leave())

const meters: Link = { ...linkContract.parse({ name: 'Berth meters', kind: 'modbus-tcp', settings: { host: 'm' } }), id: 1, revision: 1 }
const names: LinkNames = {
  linkOf: (id) => (id === 1 ? meters : undefined),
  idOf: (name) => (name.toLowerCase() === 'berth meters' ? 1 : undefined),
  nameOf: (id) => (id === 1 ? 'Berth meters' : undefined),
}
const tag = (id: number, more: Partial<Tag> = {}): Tag => ({
  ...pointTag({ path: `berth/${id}`, linkId: 1, address: `holding/${id}`, type: 'int16', unit: 'kW' }),
  id,
  revision: 3,
  ...more,
})
const grid = () => within(() => useGridEdits(() => names))

describe('cells that are changed', () => {
  it('are undone and done again by the block, and are no change where they say what is there', () => {
    const edits = grid()
    const [a, b] = [tag(1), tag(2)]
    edits.write([a, b].map((one) => ({ row: one, column: 'unit', text: 'MW' })))
    edits.write([{ row: a, column: 'gain', text: '0.1' }])
    expect([edits.cells.value, edits.cellOf(a, 'unit'), edits.cellOf(a, 'gain')]).toEqual([3, 'MW', '0.1'])
    edits.write([{ row: a, column: 'unit', text: 'kW' }])
    expect(edits.cells.value).toBe(2)
    for (let i = 0; i < 3; i++) edits.undo()
    expect([edits.cells.value, edits.edits.size]).toEqual([0, 0])
    edits.redo()
    expect([edits.cellOf(a, 'unit'), edits.cellOf(b, 'unit')]).toEqual(['MW', 'MW'])
    // another change takes the place of what was undone
    edits.write([{ row: b, column: 'unit', text: 'W' }])
    edits.redo()
    expect(edits.cellOf(b, 'unit')).toBe('W')
    edits.write([{ row: b, column: 'unit', text: 'W' }])
    expect(edits.done.value).toHaveLength(2)
  })

  it('are checked as they come, in the light of the other cells, and hold up saving', async () => {
    const edits = grid()
    const heard = answerWith(() => ({ revision: 4, tags: [] }))
    const a = tag(1)
    edits.write([{ row: a, column: 'address', text: 'coil/3' }])
    expect(edits.problems.get(1)).toHaveProperty('type')
    expect(await edits.save()).toBeNull()
    expect(heard).toHaveLength(0)
    edits.write([{ row: a, column: 'type', text: 'bool' }])
    expect(edits.problems.size).toBe(0)
    expect(await edits.save()).toMatchObject({ revision: 4 })
    expect(edits.edits.size).toBe(0)
  })

  it('keep what the server refuses, and say where', async () => {
    const edits = grid()
    answerWith(() => refusal('entry.invalid', { count: 1 }, { fields: [{ path: 'edits.1.cells.source.address', message: 'Taken.' }] }, 422))
    edits.write([tag(1), tag(2)].map((one) => ({ row: one, column: 'unit', text: 'MW' })))
    expect(await edits.save()).toBeNull()
    expect(edits.problems.get(2)).toEqual({ address: 'Taken.' })
    expect(edits.cells.value).toBe(2)
    edits.undo()
    expect([edits.problems.size, edits.refused.value]).toEqual([0, null])
  })

  it('take over what somebody else saves beside them, and tell where that is the same cell', () => {
    const edits = grid()
    edits.write([{ row: tag(1), column: 'unit', text: 'MW' }])
    edits.seen(tag(1, { revision: 5, description: 'theirs' }))
    expect(edits.edits.get(1)).toMatchObject({ base: { revision: 5, description: 'theirs' }, cells: { unit: 'MW' } })
    edits.seen(tag(1, { revision: 6, unit: 'W' }))
    expect(edits.problems.get(1)!.unit).toContain('“W” meanwhile')
    // the same from both sides is no longer a change
    const other = grid()
    other.write([{ row: tag(2), column: 'unit', text: 'MW' }])
    other.seen(tag(2, { revision: 7, unit: 'MW' }))
    expect(other.edits.size).toBe(0)
  })
})

describe('the cursor', () => {
  const keys = (cursor: ReturnType<typeof useGridCursor>, ...all: (string | [string, KeyboardEventInit])[]) => {
    for (const key of all) {
      const [name, init] = typeof key === 'string' ? [key, {}] : key
      cursor.press(new KeyboardEvent('keydown', { key: name, ...init }))
    }
  }
  it('stays inside, goes to the ends, and draws a block behind it', () => {
    const cursor = useGridCursor({ rows: () => 100, columns: () => 5, page: () => 10, reveal: () => {} })
    keys(cursor, 'ArrowUp', 'ArrowLeft', 'PageDown', 'ArrowRight')
    expect(cursor.cursor.value).toEqual({ row: 10, column: 1 })
    keys(cursor, ['ArrowDown', { shiftKey: true }], ['ArrowRight', { shiftKey: true }])
    expect(cursor.block.value).toEqual({ top: 10, bottom: 11, left: 1, right: 2 })
    keys(cursor, ['End', { ctrlKey: true }])
    expect(cursor.block.value).toEqual({ top: 99, bottom: 99, left: 4, right: 4 })
    keys(cursor, ['ArrowUp', { ctrlKey: true, shiftKey: true }])
    expect(cursor.block.value).toMatchObject({ top: 0, bottom: 99 })
    expect(cursor.press(new KeyboardEvent('keydown', { key: 'x' }))).toBe(false)
  })
})
