import { clashesOf } from '#core/modbus/map/clashes'
import type { MapEntry } from '#core/modbus/map/entry'
import { entryIn, mapCells, referenceOf, type MapCells, type MapColumn, type ReadEntry } from '#core/modbus/map/table'
import { nameOf } from '#core/tags/path'
import type { GridCells } from './gridCells'

/** One line of a map on screen: as typed, and as it is saved; null: it is new. */
export interface MapRow {
  id: number
  cells: MapCells
  saved: MapCells | null
}

const mostSteps = 100

/** The lines of a map as they are changed on screen: read as they come, with what is wrong at its cell, undone and done again. */
export const useMapRows = (unit: () => number) => {
  const rows = shallowRef<readonly MapRow[]>([])
  const done = shallowRef<(readonly MapRow[])[]>([])
  const undone = shallowRef<(readonly MapRow[])[]>([])
  const savedText = ref('[]')
  let nextId = 1
  /** A row that did not change is not read again. */
  const reads = new WeakMap<MapRow, ReadEntry>()
  const readOf = (row: MapRow): ReadEntry => {
    const known = reads.get(row) ?? entryIn(row.cells)
    reads.set(row, known)
    return known
  }

  const rowOf = (entry: MapEntry, isSaved: boolean): MapRow => {
    const cells = mapCells(entry)
    return { id: nextId++, cells, saved: isSaved ? cells : null }
  }
  const load = (entries: readonly MapEntry[]) => {
    rows.value = entries.map((entry) => rowOf(entry, true))
    savedText.value = textOf(entries)
    done.value = []
    undone.value = []
  }
  const change = (next: readonly MapRow[]) => {
    done.value = [...done.value, rows.value].slice(-mostSteps)
    undone.value = []
    rows.value = next
  }
  const add = (entries: readonly MapEntry[]) => change([...rows.value, ...entries.map((entry) => rowOf(entry, false))])
  const addBlank = (cells: Partial<MapCells>) => change([...rows.value, { id: nextId++, cells: { ...blank, ...cells }, saved: null }])
  /** Another map in the place of this one; lines of a tag that was there are the same lines. */
  const replace = (entries: readonly MapEntry[]) => {
    const known = new Map(rows.value.filter(({ saved }) => saved).map((row) => [keyOf(row.saved!), row.saved!]))
    change(entries.map((entry) => ({ ...rowOf(entry, false), saved: known.get(keyOf(mapCells(entry))) ?? null })))
  }
  const drop = (ids: ReadonlySet<number>) => change(rows.value.filter(({ id }) => !ids.has(id)))
  const undo = () => step(done, undone)
  const redo = () => step(undone, done)
  const step = (from: typeof done, to: typeof done) => {
    const before = from.value.at(-1)
    if (!before) return
    from.value = from.value.slice(0, -1)
    to.value = [...to.value, rows.value]
    rows.value = before
  }

  const entries = computed(() =>
    rows.value.flatMap((row) => {
      const read = readOf(row)
      return read.ok ? [{ row, entry: read.entry }] : []
    }),
  )
  const problems = computed(() => {
    const found = new Map<number, { column: MapColumn; message: string }>()
    for (const row of rows.value) {
      const read = readOf(row)
      if (!read.ok) found.set(row.id, { column: read.column, message: read.problem })
    }
    const placed = entries.value
    const list = placed.map(({ entry }) => entry)
    for (const { at, with: other } of clashesOf(list, unit())) {
      const { path, at: where } = list[other]!
      const line = rows.value.indexOf(placed[other]!.row) + 1
      found.set(placed[at]!.row.id, { column: 'address', message: `It lies on line ${line}, ${nameOf(path)} at ${where}.` })
    }
    return found
  })
  const isDirty = computed(() => problems.value.size > 0 || textOf(entries.value.map(({ entry }) => entry)) !== savedText.value)

  const cells: GridCells<MapRow> = {
    cellOf: (row, column) => {
      if (column !== 'reference') return row.cells[column as MapColumn]
      const read = readOf(row)
      return read.ok ? referenceOf(read.entry) : ''
    },
    isEdited: (row, column) => column !== 'reference' && row.saved?.[column as MapColumn] !== row.cells[column as MapColumn],
    problemOf: (row, column) => {
      const problem = problems.value.get(row.id)
      return problem?.column === column ? problem.message : undefined
    },
    write: (written) => {
      const byRow = new Map<number, Partial<MapCells>>()
      for (const { row, column, text } of written) byRow.set(row.id, { ...byRow.get(row.id), [column]: text.trim() })
      const next = rows.value.map((row) => {
        const more = byRow.get(row.id)
        return more && differs(row.cells, more) ? { ...row, cells: { ...row.cells, ...more } } : row
      })
      if (next.some((row, i) => row !== rows.value[i])) change(next)
    },
    undo,
    redo,
  }
  return { rows, done, undone, entries, problems, isDirty, cells, load, add, addBlank, replace, drop, undo, redo }
}

const blank: MapCells = { path: '', address: '', reference: '', type: 'uint16', word_order: 'ABCD', length: '', gain: '1', tells: 'value' }

const keyOf = ({ path, tells }: MapCells) => `${path}\n${tells}`
const textOf = (entries: readonly MapEntry[]) => JSON.stringify(entries.map((entry) => Object.values(mapCells(entry))))
const differs = (cells: MapCells, more: Partial<MapCells>) =>
  Object.entries(more).some(([column, text]) => cells[column as MapColumn] !== text)
