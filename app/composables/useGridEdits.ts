import { changeCells } from '#shared/api/tags'
import type { LinkNames } from '#shared/sources/columns'
import { cellsOf } from '#shared/tagCsv/cells'
import { columnNamed, columnOfField } from '#shared/tagCsv/columns'
import { editedTag } from '#shared/tagCsv/edit'
import type { Tag } from '#shared/tags'

/** One cell that becomes another one; undefined: as the site has it. */
interface CellStep {
  tag: Tag
  column: string
  before: string | undefined
  after: string | undefined
}

interface Edited {
  /** As it was when the first of its cells was changed. */
  base: Tag
  cells: Record<string, string>
}

const inOneGo = 20_000

/** Cells of tags as they are changed on screen: checked as they come, undone and done again, and saved in one go. */
export const useGridEdits = (links: () => LinkNames) => {
  const edits = shallowReactive(new Map<number, Edited>())
  const problems = shallowReactive(new Map<number, Record<string, string>>())
  const undone = shallowRef<CellStep[][]>([])
  const done = shallowRef<CellStep[][]>([])
  const refused = shallowRef<Refused | null>(null)
  const saving = ref(false)
  const shown = new WeakMap<Tag, Record<string, string>>()

  const savedCells = (tag: Tag) => {
    const known = shown.get(tag) ?? cellsOf(tag, links())
    shown.set(tag, known)
    return known
  }
  const cellOf = (tag: Tag, column: string) => edits.get(tag.id)?.cells[column] ?? savedCells(tag)[column] ?? ''

  const isEdited = (tag: Tag, column: string) => edits.get(tag.id)?.cells[column] !== undefined
  const problemOf = (tag: Tag, column: string) => problems.get(tag.id)?.[column]

  const check = (id: number) => {
    const edited = edits.get(id)
    if (!edited) return void problems.delete(id)
    const found = editedTag(edited.base, edited.cells, links()).problems
    if (found.length === 0) problems.delete(id)
    else problems.set(id, Object.fromEntries(found.map(({ column, message }) => [column ?? 'path', message])))
  }

  const put = (steps: readonly CellStep[], side: 'before' | 'after') => {
    const touched = new Set<number>()
    for (const { tag, column, [side]: text } of steps) {
      const { base, cells } = edits.get(tag.id) ?? { base: tag, cells: {} }
      const { [column]: _old, ...others } = cells
      const next = text === undefined ? others : { ...others, [column]: text }
      if (Object.keys(next).length > 0) edits.set(tag.id, { base, cells: next })
      else edits.delete(tag.id)
      touched.add(tag.id)
    }
    touched.forEach(check)
    refused.value = null
  }

  /** Writes cells; what a cell holds already is no change. */
  const write = (cells: readonly { row: Tag; column: string; text: string }[]) => {
    const steps = cells.flatMap(({ row: tag, column, text }): CellStep[] => {
      const before = edits.get(tag.id)?.cells[column]
      const after = text === (savedCells(edits.get(tag.id)?.base ?? tag)[column] ?? '') ? undefined : text
      return before === after ? [] : [{ tag, column, before, after }]
    })
    if (steps.length === 0) return
    put(steps, 'after')
    done.value = [...done.value, steps]
    undone.value = []
  }
  const undo = () => {
    const steps = done.value.at(-1)
    if (!steps) return
    done.value = done.value.slice(0, -1)
    undone.value = [...undone.value, steps]
    put([...steps].reverse(), 'before')
  }
  const redo = () => {
    const steps = undone.value.at(-1)
    if (!steps) return
    undone.value = undone.value.slice(0, -1)
    done.value = [...done.value, steps]
    put(steps, 'after')
  }
  const forget = () => {
    edits.clear()
    problems.clear()
    done.value = []
    undone.value = []
    refused.value = null
  }

  /** A tag as somebody saved it meanwhile: what they did to other cells is taken over, what they did to ours is told. */
  const seen = (tag: Tag) => {
    const edited = edits.get(tag.id)
    if (!edited || edited.base.revision === tag.revision) return
    const [was, is] = [savedCells(edited.base), savedCells(tag)]
    const clash = Object.keys(edited.cells).find(
      (column) => (was[column] ?? '') !== (is[column] ?? '') && is[column] !== edited.cells[column],
    )
    if (clash)
      return void problems.set(tag.id, { [clash]: `Somebody changed it to “${is[clash] ?? ''}” meanwhile; type it again to save yours.` })
    const cells = Object.fromEntries(Object.entries(edited.cells).filter(([column, text]) => text !== (is[column] ?? '')))
    if (Object.keys(cells).length > 0) edits.set(tag.id, { base: tag, cells })
    else edits.delete(tag.id)
    check(tag.id)
  }

  /** @returns the revision; null where nothing was saved, and why stands with the cells */
  const save = async (): Promise<{ revision: number; tags: Tag[] } | null> => {
    const sent = [...edits]
    if (sent.length === 0 || problems.size > 0 || saving.value) return null
    saving.value = true
    try {
      const body = { edits: sent.slice(0, inOneGo).map(([id, { base, cells }]) => ({ id, revision: base.revision, cells })) }
      const saved = await callApi(changeCells, { body })
      for (const { id } of body.edits) edits.delete(id)
      done.value = []
      undone.value = []
      refused.value = null
      return saved
    } catch (error) {
      refused.value = asRefused(error)
      for (const { path, message } of refused.value.fields) {
        const [, at, field] = /^edits\.(\d+)\.cells\.(.*)$/.exec(path) ?? []
        const id = sent[Number(at)]?.[0]
        if (id !== undefined && field !== undefined)
          problems.set(id, { ...problems.get(id), [columnNamed(field) ? field : (columnOfField(field) ?? 'path')]: message })
      }
      return null
    } finally {
      saving.value = false
    }
  }

  const cells = computed(() => [...edits.values()].reduce((sum, edited) => sum + Object.keys(edited.cells).length, 0))
  return {
    edits,
    problems,
    refused,
    saving,
    done,
    undone,
    cells,
    savedCells,
    cellOf,
    isEdited,
    problemOf,
    write,
    undo,
    redo,
    forget,
    seen,
    save,
  }
}

export type GridEdits = ReturnType<typeof useGridEdits>
