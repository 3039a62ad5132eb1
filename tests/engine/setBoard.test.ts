import { describe, expect, it } from 'vitest'
import { recordSetContract } from '#core/records/settings'
import { quality } from '#core/tags/quality'
import { SetBoard } from '#engine/records/board'
import { TagTable } from '#engine/table/tagTable'
import { tagDraft } from '#shared/tags'

describe('the tags of a set', () => {
  it('are no longer good once their column is gone, whoever has yet to remove them', () => {
    const tables = new TagTable()
    const board = new SetBoard(
      tables,
      recordSetContract.parse({ name: 'P', linkId: 1, folder: 'p', how: { kind: 'procedure', routine: 'r' } }),
    )
    const tags = ['a', 'b'].map((column, i) => ({
      ...tagDraft.parse({ path: `p/${column}`, type: 'int32', source: { kind: 'record', recordSetId: 1, part: 'value', column } }),
      ...{ id: i + 1, revision: 1, handle: tables.allocate(), passedOn: 'int32' as const },
    }))
    board.take(tags, [])
    const column = (name: string) => ({ name, declared: 'integer', type: 'int32', note: '' }) as const
    board.show({ columns: [column('a'), column('b')], labels: null, rows: [[1, 2]] }, {}, true)
    expect(tags.map(({ handle }) => tables.quality[handle])).toEqual([quality.Good, quality.Good])
    board.show({ columns: [column('a')], labels: null, rows: [[1]] }, {}, true)
    expect(tags.map(({ handle }) => tables.quality[handle])).toEqual([quality.Good, quality.BadNoData])
  })
})
